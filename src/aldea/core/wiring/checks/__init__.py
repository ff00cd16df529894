"""What may be wrong with the wiring: a function a check, by what it looks at."""
