"""From what a probe says to a value one can use."""
