"""A load behind a plain relay."""
