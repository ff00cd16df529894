"""two_way."""
