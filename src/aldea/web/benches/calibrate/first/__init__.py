"""The first page of Calibrate."""
