"""stepped_fan."""
