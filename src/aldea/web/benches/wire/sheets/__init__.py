"""sheets."""
