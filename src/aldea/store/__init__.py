"""Tables and repositories in PostgreSQL."""
