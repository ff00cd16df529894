"""Aldea: measure, decide and keep what switches what and when in a shared house."""
