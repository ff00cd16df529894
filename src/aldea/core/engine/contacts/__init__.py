"""contacts."""
