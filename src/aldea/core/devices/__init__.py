"""Kinds of sensors and loads: one folder a kind, its figures below the plan, its doings above."""
