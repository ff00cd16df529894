"""The same work from a terminal."""
