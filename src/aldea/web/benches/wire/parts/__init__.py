"""parts."""
