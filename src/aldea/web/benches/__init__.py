"""The benches: a folder each; none imports another."""
