"""Digital, single wire."""
