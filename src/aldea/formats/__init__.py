"""Files in and out: bytes to core types and back."""
