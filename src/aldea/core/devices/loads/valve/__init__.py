"""valve."""
