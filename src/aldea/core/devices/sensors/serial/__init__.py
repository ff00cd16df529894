"""Serial, two crossed lines."""
