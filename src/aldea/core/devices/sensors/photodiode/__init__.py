"""Photodiode with amplifier."""
