"""The made-up mill house Molino Alto and its recorded days."""
