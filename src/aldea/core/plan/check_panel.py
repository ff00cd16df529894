"""How the wiring of a plan refers to its other parts; each refusal names the path inside."""

from collections.abc import Iterator, Sequence

from aldea.core.base.errors import PlanError
from aldea.core.base.figures import short
from aldea.core.devices.loads.models import LOAD_FACTS, LOADS, LoadFigures
from aldea.core.plan.board_types import board_types
from aldea.core.plan.controls import ControlAction
from aldea.core.plan.document import Load, Place, Plan
from aldea.core.plan.panel import Board, BoardType


def panel_problems(plan: Plan) -> Iterator[PlanError]:
    """Every reference of the wiring that leads nowhere or twice, in the order of the document."""
    yield from _place_loops(plan.places)
    for index, load in enumerate(plan.loads):
        yield from _figure_problems(f"/loads/{index}", load, plan)
    yield from _standing(plan)
    yield from _feed_problems(plan)
    yield from _control_problems(plan)
    types = board_types(plan)
    for index, own in enumerate(plan.board_types):
        yield from _type_problems(f"/board_types/{index}", own)
    for index, board in enumerate(plan.boards):
        yield from _board_problems(f"/boards/{index}", board, plan, types)
    yield from _relay_problems(plan)
    yield from _assignment_problems(plan, types)
    yield from _invariant_problems(plan)


def _unknown(path: str, got: str, kind: str) -> PlanError:
    return PlanError(path, got=repr(got), allowed=f"the id of a {kind} of this plan")


def _place_loops(places: tuple[Place, ...]) -> Iterator[PlanError]:
    within = {place.id: place.within for place in places}
    for index, place in enumerate(places):
        path = f"/places/{index}/within"
        if place.within is not None and place.within not in within:
            yield _unknown(path, place.within, "place")
            continue
        seen = [place.id]
        step = place.within
        while step is not None and step not in seen:
            seen.append(step)
            step = within.get(step)
        if step is not None:
            yield PlanError(
                path,
                got=f"a loop: {' in '.join([*seen, step])}",
                allowed="a place that is not itself inside this one",
                fix="Give one of them a level of its own.",
            )


def _figure_problems(path: str, load: Load, plan: Plan) -> Iterator[PlanError]:
    own = LOAD_FACTS[load.kind]
    for key in LoadFigures.model_fields:
        figures = getattr(load, key)
        if figures is None:
            continue
        if key != own.figures:
            whose = next(facts.kind for facts in LOADS if facts.figures == key)
            yield PlanError(
                f"{path}/{key}",
                got=f"figures of a {whose.replace('_', ' ')}",
                allowed=f"none, for this load is of the kind {load.kind.replace('_', ' ')}",
            )
            continue
        for field in own.probe_fields:
            named = getattr(figures, field)
            if named is not None and plan.probe(named) is None:
                yield _unknown(f"{path}/{key}/{field}", named, "probe")


def _standing(plan: Plan) -> Iterator[PlanError]:
    places = {place.id for place in plan.places}
    standing = {
        "controls": [part.place for part in plan.controls],
        "supplies": [part.place for part in plan.supplies],
        "boards": [part.place for part in plan.boards],
    }
    for key, where in standing.items():
        for index, place in enumerate(where):
            if place not in places:
                yield _unknown(f"/{key}/{index}/place", place, "place")


def _feed_problems(plan: Plan) -> Iterator[PlanError]:
    """Volts, current and supply of each load: mains from a feed, other volts from a supply."""
    for index, load in enumerate(plan.loads):
        if load.supply is not None and plan.supply(load.supply) is None:
            yield _unknown(f"/loads/{index}/supply", load.supply, "supply")
        if load.on_mains and load.supply is not None:
            yield PlanError(
                f"/loads/{index}/supply",
                got=f"{load.supply!r} for a load at mains",
                allowed="a feed of the house; or say at how many volts it runs",
            )
        if not load.on_mains and not LOAD_FACTS[load.kind].low_voltage_too:
            yield PlanError(
                f"/loads/{index}/volts",
                got=f"{short(load.volts or 0)} V for a {LOAD_FACTS[load.kind].name}",
                allowed="none: it runs on the house’s mains",
            )
        if load.on_mains and load.runs_on == "dc":
            yield PlanError(
                f"/loads/{index}/runs_on", got="'dc' at mains", allowed="'ac', or its volts"
            )


def _all_wants(rows: Sequence[ControlAction]) -> Iterator[tuple[str, ControlAction]]:
    """Every want of some presses, codes or positions, those besides too, and where it stands."""
    for number, row in enumerate(rows):
        yield str(number), row
        for other, want in enumerate(getattr(row, "also", ())):
            yield f"{number}/also/{other}", want


def _control_problems(plan: Plan) -> Iterator[PlanError]:
    """What hands want of loads and groups that are not there, or of two things at once."""
    loads = {load.id for load in plan.loads}
    groups = {group.id for group in plan.groups}
    for index, group in enumerate(plan.groups):
        for number, member in enumerate(group.members):
            if member not in loads:
                yield _unknown(f"/groups/{index}/members/{number}", member, "load")
    for index, control in enumerate(plan.controls):
        if control.load is not None and control.load not in loads:
            yield _unknown(f"/controls/{index}/load", control.load, "load")
        for field in ("presses", "positions", "codes"):
            for place, want in _all_wants(getattr(control, field)):
                path = f"/controls/{index}/{field}/{place}"
                if want.load is not None and want.load not in loads:
                    yield _unknown(f"{path}/load", want.load, "load")
                if want.group is not None and want.group not in groups:
                    yield _unknown(f"{path}/group", want.group, "group")
                if want.load is not None and want.group is not None:
                    yield PlanError(
                        f"{path}/group", got="a load and a group", allowed="one of the two"
                    )
                if (want.does == "step") != (want.step is not None):
                    yield PlanError(
                        f"{path}/step",
                        got=str(want.step),
                        allowed="a number where it does “step”, else none",
                    )


def _type_problems(path: str, kind: BoardType) -> Iterator[PlanError]:
    for key in ("name", "number"):
        seen: set[object] = set()
        for index, pin in enumerate(kind.pins):
            value = getattr(pin, key)
            if value in seen:
                yield PlanError(
                    f"{path}/pins/{index}/{key}",
                    got=f"{value} again",
                    allowed=f"a {key} that no other pin of the board has",
                )
            seen.add(value)


def _board_problems(
    path: str, board: Board, plan: Plan, types: dict[str, BoardType]
) -> Iterator[PlanError]:
    kind = types.get(board.board_type)
    if kind is None:
        yield PlanError(
            f"{path}/board_type",
            got=repr(board.board_type),
            allowed="one of " + ", ".join(types),
            fix="Import its pin table first.",
        )
        return
    if board.supply is not None and plan.supply(board.supply) is None:
        yield _unknown(f"{path}/supply", board.supply, "supply")
    host = plan.board(board.host) if board.host else None
    if board.host is not None and (
        host is None or types.get(host.board_type, kind).role != "controller"
    ):
        yield PlanError(
            f"{path}/host", got=repr(board.host), allowed="a board that is a controller"
        )
    if kind.role == "controller" and board.host is not None:
        yield PlanError(f"{path}/host", got=repr(board.host), allowed="none, for a controller")


def _relay_problems(plan: Plan) -> Iterator[PlanError]:
    loads = {load.id for load in plan.loads}
    seen: set[tuple[str, str]] = set()
    for index, relay in enumerate(plan.relays):
        if relay.place is not None and plan.place(relay.place) is None:
            yield _unknown(f"/relays/{index}/place", relay.place, "place")
        if relay.coil_fed_by is not None and plan.supply(relay.coil_fed_by) is None:
            yield _unknown(f"/relays/{index}/coil_fed_by", relay.coil_fed_by, "supply")
        if relay.load not in loads:
            yield _unknown(f"/relays/{index}/load", relay.load, "load")
        if (relay.load, relay.role) in seen:
            yield PlanError(
                f"/relays/{index}/role",
                got=f"{relay.role!r} again for {relay.load}",
                allowed="one relay a role",
            )
        seen.add((relay.load, relay.role))


def _assignment_problems(plan: Plan, types: dict[str, BoardType]) -> Iterator[PlanError]:
    seen: set[str] = set()
    for index, row in enumerate(plan.assignments):
        path = f"/assignments/{index}"
        if row.signal in seen:
            yield PlanError(
                f"{path}/signal", got=f"{row.signal!r} again", allowed="one pin a signal"
            )
        seen.add(row.signal)
        board = plan.board(row.board)
        if board is None:
            yield _unknown(f"{path}/board", row.board, "board")
        elif board.board_type in types and types[board.board_type].pin(row.pin) is None:
            yield PlanError(
                f"{path}/pin",
                got=repr(row.pin),
                allowed=f"a pin of {types[board.board_type].name}",
            )


def _invariant_problems(plan: Plan) -> Iterator[PlanError]:
    loads = {load.id for load in plan.loads}
    probes = {probe.id for probe in plan.probes}
    for index, never in enumerate(plan.invariants):
        path = f"/invariants/{index}/rule"
        for load in never.loads:
            if load not in loads:
                yield _unknown(path, load, "load")
        for probe in never.probes:
            if probe not in probes:
                yield _unknown(path, probe, "probe")
        if never.rule.form == "never_together" and len(set(never.rule.loads)) < 2:
            yield PlanError(f"{path}/loads", got="one load twice", allowed="two different loads")
        if never.rule.form == "at_most" and never.rule.at_most_s > never.rule.window_s:
            yield PlanError(
                f"{path}/at_most_s",
                got=f"{short(never.rule.at_most_s)} s",
                allowed=f"up to the window of {short(never.rule.window_s)} s",
            )
