"""Mains-sensing input, isolated."""
