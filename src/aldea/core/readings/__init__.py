"""readings."""
