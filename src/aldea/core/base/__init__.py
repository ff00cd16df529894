"""base."""
