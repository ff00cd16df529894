"""The panel: boards drawn, the schedule, pins, findings with their fixes."""
