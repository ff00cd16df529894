"""Bare contact."""
