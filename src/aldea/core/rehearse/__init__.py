"""Replaying recorded days, with faults put in, and what it comes to in figures."""
