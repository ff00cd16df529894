"""One scan, by stage, and the replay that calls it: one source for Python and the compiler."""
