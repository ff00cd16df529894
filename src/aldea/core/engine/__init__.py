"""One meaning of one scan, for plain Python and for the compiler."""
