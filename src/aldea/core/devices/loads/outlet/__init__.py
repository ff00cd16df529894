"""outlet."""
