"""What stands between a house and its rules: checks that need no run, and when schedules turn."""
