"""Kinds of loads."""
