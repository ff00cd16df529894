"""indicator."""
