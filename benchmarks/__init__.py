"""What is timed, against plain C doing the same work."""
