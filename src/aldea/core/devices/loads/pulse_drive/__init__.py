"""pulse_drive."""
