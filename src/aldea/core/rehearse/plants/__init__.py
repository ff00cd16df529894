"""Plants: the rooms, pipes, doors, light and people that a rehearsal runs against."""
