"""The form of a part: what is asked of each, and how it is read."""
