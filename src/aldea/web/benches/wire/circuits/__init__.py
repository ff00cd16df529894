"""circuits."""
