"""Identical probes: what is measured on one, carried to the others."""
