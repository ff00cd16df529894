"""A function whose name stands in `one_name`, too, and one that calls it."""

from aldea.core.engine.tables.run import RunTables


def helper(run: RunTables) -> int:
    """Two."""
    return len(run.plan.probes)


def other(run: RunTables) -> int:
    """Calls the one beside it."""
    return helper(run)
