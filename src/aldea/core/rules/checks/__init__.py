"""Checks of the rules of a plan, by what they look at."""
