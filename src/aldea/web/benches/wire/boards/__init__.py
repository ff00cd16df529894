"""boards."""
