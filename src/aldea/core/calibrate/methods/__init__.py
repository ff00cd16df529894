"""How a probe of a quantity is calibrated: what is stated, fitted and said; one module each."""
