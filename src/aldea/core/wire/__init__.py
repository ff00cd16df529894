"""Pins, levels, supply, contacts, special circuits, parts: what the panel is made of."""
