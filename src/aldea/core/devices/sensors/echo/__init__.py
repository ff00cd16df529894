"""Ultrasonic, trigger and echo."""
