"""controls."""
