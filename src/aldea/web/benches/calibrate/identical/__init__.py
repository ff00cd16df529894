"""Identical probes: what is measured on one, carried to its sister probes."""
