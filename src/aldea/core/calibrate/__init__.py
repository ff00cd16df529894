"""From pairs of reference and reading to a line, its uncertainty and a certificate."""
