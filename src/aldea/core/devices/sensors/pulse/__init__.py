"""Pulse meter."""
