"""Sensor with a voltage out."""
