"""The budget of a probe: every row, rows of one's own, what is promised along the range."""
