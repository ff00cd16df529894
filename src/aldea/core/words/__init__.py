"""Sentences for people, made from plan and events."""
