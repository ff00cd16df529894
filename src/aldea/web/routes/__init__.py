"""Routes: parse, call one core or store function, render."""
