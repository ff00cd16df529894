"""shell."""
