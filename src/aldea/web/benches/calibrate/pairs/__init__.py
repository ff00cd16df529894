"""pairs."""
