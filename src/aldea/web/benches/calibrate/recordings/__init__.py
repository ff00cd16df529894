"""recordings."""
