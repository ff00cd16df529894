"""The job itself: no interface, database, file, clock or network."""
