"""Heated gas or smoke sensor."""
