"""One line of a benchmark: what was measured, and whether it meets its target."""


def said(name: str, value: float, target: str, good: bool) -> None:
    """Print a figure beside its target."""
    print(f"{'ok  ' if good else 'MISS'}  {name:<58} {value:9.2f}   target {target}", flush=True)
