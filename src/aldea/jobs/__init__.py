"""Long work over the database's own queue."""
