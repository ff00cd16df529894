"""imports."""
