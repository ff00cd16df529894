"""Thermistor in a divider."""
