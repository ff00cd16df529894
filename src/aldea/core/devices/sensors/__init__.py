"""Kinds of sensors."""
