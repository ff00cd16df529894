"""From the scan's source, a small typed subset of Python, to C of the same meaning."""
