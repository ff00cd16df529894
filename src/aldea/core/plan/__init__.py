"""The plan document: one versioned description of a house and its rules."""
