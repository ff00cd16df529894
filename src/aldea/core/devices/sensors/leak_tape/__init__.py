"""Leak tape."""
