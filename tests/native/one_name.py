"""A function whose name stands in `same_name`, too."""

from aldea.core.engine.tables.run import RunTables


def helper(run: RunTables) -> int:
    """One."""
    return len(run.plan.loads)
