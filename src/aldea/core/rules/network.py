"""What a load reads over the network: probes that hang on another board than its relays."""

from aldea.core.plan.board_types import board_types
from aldea.core.plan.document import Load, Plan, Probe
from aldea.core.plan.reading import expanded, working_rules
from aldea.core.wiring.candidates import root_of


def probes_away(plan: Plan, load: Load) -> tuple[Probe, ...]:
    """The probes of a load's rules that another controller reads, in the order of the rules."""
    mine = {controller_of(plan, f"relay:{relay.id}") for relay in plan.relays_of(load.id)} - {None}
    if not mine:
        return ()
    parts = [
        part
        for rule in working_rules(plan, load.id)
        if rule.condition is not None
        for part in expanded(plan, rule.condition)
    ]
    names = dict.fromkeys(name for part in parts if (name := getattr(part, "probe", None)))
    probes = [probe for name in names if (probe := plan.probe(name)) is not None]
    read_by = {p.id: controller_of(plan, f"probe:{p.part_with or p.id}") for p in probes}
    return tuple(p for p in probes if read_by[p.id] is not None and read_by[p.id] not in mine)


def controller_of(plan: Plan, owner: str) -> str | None:
    """The board that a part hangs on at last; None where it is not wired yet."""
    at = {row.signal.partition(".")[0]: row.board for row in plan.assignments}
    board = next((board for board in plan.boards if board.id == at.get(owner)), None)
    if board is None or board.board_type not in board_types(plan):
        return None
    return root_of(board)
