"""Boards, pins, assignment, conductors, supplies, findings with their fixes."""
