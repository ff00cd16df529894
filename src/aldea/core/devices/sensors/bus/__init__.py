"""Digital, two-wire bus."""
