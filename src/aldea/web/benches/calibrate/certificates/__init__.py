"""certificates."""
