"""Motion detector."""
