"""What pages show, computed and finished before a template sees it."""
