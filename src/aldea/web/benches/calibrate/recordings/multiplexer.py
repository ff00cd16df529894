"""Several sensors on one line: the order of a multiplexer's channels, settling, crosstalk."""

import math
from collections.abc import Callable

import numpy as np

from aldea.core.base.errors import CalibrationError
from aldea.core.base.figures import figure, short
from aldea.core.calibrate.multiplexer import (
    crosstalk_1,
    order_of,
    settle_time_s,
    settling_of,
)
from aldea.core.devices.sensors.leak_tape.model import LeakTape
from aldea.core.devices.sensors.light_resistor.model import LightResistor
from aldea.core.devices.sensors.thermistor.model import Thermistor
from aldea.core.physics.divider import source_ohm
from aldea.core.plan.board_types import board_types
from aldea.core.plan.document import Plan, Probe
from aldea.core.plan.edits import fresh_id, put_part
from aldea.core.words.verdicts import Verdict
from aldea.web.benches.calibrate.recordings.bench import (
    Ask,
    Found,
    Given,
    RecordingsBench,
    Table,
    Take,
    filled,
)
from aldea.web.benches.calibrate.recordings.on_boards import board_of, boards_with_role, on_board
from aldea.web.shell.sketch import make_sketch

SWITCH_OHM, HOLD_FARAD = 70.0, 30e-12  # an ordinary analog switch and sample-and-hold
MOST_CROSSTALK_1 = 0.002
WAIT_MARGIN_1 = 1.5


def _channels(plan: Plan, subject: str) -> list[tuple[int, Probe]]:
    _, kind = board_of(plan, subject)
    places = {pin.name: i for i, pin in enumerate(kind.pins)}
    return sorted(
        ((places[pin], probe) for probe, pin in on_board(plan, subject) if pin in places),
        key=lambda row: row[0],
    )


def _fields_of(plan: Plan, subject: str) -> tuple[Ask, ...]:
    _, kind = board_of(plan, subject)
    order = ", ".join(f"{i} {probe.name}" for i, probe in _channels(plan, subject))
    return (
        Ask(
            name="touches",
            label=f"Counts of all {len(kind.pins)} channels: a row at rest, a row for each touch",
            rows=6,
            note=f"Warm or short one sensor after the other, in the order of their channels: "
            f"{order}."
            if order
            else "No sensor is assigned to it yet. Assign the pins at Wire.",
        ),
        Ask(
            name="waits",
            label="Wait after switching, µs, and counts",
            rows=4,
            heading="Settling, on the channel with the highest resistance",
        ),
        Ask(name="bits", label="Converter", unit="bits", first="12", low=6, high=24),
        Ask(
            name="low_counts",
            label="Held still, neighbour low",
            unit="counts",
            high=1e8,
            heading="Crosstalk: one channel held still, its neighbour moved",
        ),
        Ask(name="high_counts", label="neighbour high", unit="counts", high=1e8),
        Ask(name="swing_counts", label="The neighbour moved by", unit="counts", high=1e8),
    )


def _highest_source_ohm(probes: list[Probe]) -> float | None:
    sources = []
    for probe in probes:
        s = probe.sensor
        if isinstance(s, Thermistor):
            sources.append(source_ohm(s.fixed_ohm, s.r25_ohm * 3))
        elif isinstance(s, LightResistor):
            sources.append(s.fixed_ohm)
        elif isinstance(s, LeakTape):
            sources.append(source_ohm(s.fixed_ohm, s.end_of_line_ohm or 1e9))
    return max(sources, default=None)


def _calculate(given: Given) -> Found:
    asks = {ask.name: ask for ask in _fields_of(given.plan, given.subject)}
    board, kind = board_of(given.plan, given.subject)
    channels = _channels(given.plan, given.subject)
    bits = given.whole(asks["bits"])
    given.fields.check()
    facts: list[tuple[str, str]] = []
    tables: list[Table] = []
    sketches = []
    wrong: list[str] = []
    shown: list[str] = []
    settled_us: float | None = None
    wait_us: float | None = None
    if given.text("touches"):
        words, table = _order(given, channels, len(kind.pins))
        (wrong if table[1] else shown).append(words)
        tables.append(table[0])
    if given.text("waits"):
        rows = given.rows("waits", 2)
        given.fields.check()
        try:
            settling = settling_of([r[0] for r in rows], [r[1] for r in rows], within=0.5)
        except CalibrationError as exc:
            raise given.refused(exc, {}, "waits") from exc
        settled_us = settling.settled_us
        if settled_us is None:
            wrong.append("the last wait is not settled yet")
        else:
            fits = settled_us <= kind.settle_us
            wait_us = None if fits else math.ceil(WAIT_MARGIN_1 * settled_us)
            (shown if fits else wrong).append(
                f"settled after {short(settled_us)} µs, {short(kind.settle_us)} µs are waited"
            )
        facts.append(("Read at once, it errs by", f"{figure(settling.error_counts, 1)} counts"))
        sketches.append(
            make_sketch(
                "Counts over the wait after switching",
                x_words="wait, µs",
                y_words="counts",
                points=[("line", [r[0] for r in sorted(rows)], [r[1] for r in sorted(rows)])],
                levels=[(settling.final_counts, "settled")],
            )
        )
    highest = _highest_source_ohm([probe for _, probe in channels])
    if highest is not None:
        needed = settle_time_s(
            source_ohm=highest, switch_ohm=SWITCH_OHM, hold_farad=HOLD_FARAD, bits=bits
        )
        facts.append(("By its resistances, at least", f"{figure(1e6 * needed, 1)} µs"))
    if any(given.fields.text(n) for n in ("low_counts", "high_counts", "swing_counts")):
        low, high, swing = (
            given.number(asks[n]) for n in ("low_counts", "high_counts", "swing_counts")
        )
        given.fields.check()
        try:
            share = crosstalk_1(low_counts=low, high_counts=high, swing_counts=swing)
        except CalibrationError as exc:
            raise given.refused(exc, {}, "swing_counts") from exc
        bad = share > MOST_CROSSTALK_1
        facts.append(("Crosstalk", f"{figure(100 * share, 2)} % of the neighbour’s swing"))
        (wrong if bad else shown).append(f"crosstalk {figure(100 * share, 2)} %")
    return Found(
        verdict=Verdict(
            state="fails" if wrong else "holds",
            sentence=f"{board.name}: {'; '.join(wrong or shown)}.",
            rest=" ".join(filter(None, (_fix(wrong), _rest(shown) if wrong else ""))),
        ),
        facts=tuple(facts),
        tables=tuple(tables),
        sketches=tuple(sketches),
        takes=(
            Take(
                label=f"Let {board.name} wait {short(wait_us)} µs",
                change=_waiting(given.subject, wait_us),
            ),
        )
        if wait_us
        else (),
    )


def _waiting(board_id: str, wait_us: float) -> Callable[[Plan, frozenset[str]], Plan]:
    """A change that lets a board wait longer; a kind that ships becomes one of the house's own."""

    def change(plan: Plan, _chosen: frozenset[str]) -> Plan:
        board, kind = board_of(plan, board_id)
        own = any(kind.id == other.id for other in plan.board_types)
        facts: dict[str, object] = {"settle_us": wait_us}
        if not own:
            name = f"{kind.name}, waits {short(wait_us)} µs"
            facts |= {"id": fresh_id(name, board_types(plan)), "name": name[:80]}
        board_type = kind.model_copy(update=facts)
        plan = put_part(plan, "board_type", board_type)
        return put_part(plan, "board", board.model_copy(update={"board_type": board_type.id}))

    return change


def _rest(shown: list[str]) -> str:
    return f"{'; '.join(shown).capitalize()}." if shown else ""


def _counts(value: float) -> str:
    return f"{figure(value, 0)} count{'s' if round(value) != 1 else ''}"


def _fix(wrong: list[str]) -> str:
    if any("crosstalk" in w for w in wrong):
        return (
            "Wait longer after switching, or throw the first conversion away; 100 nF at the "
            "common line where the sources are high."
        )
    if any("wait" in w for w in wrong):
        return (
            "Wait longer after switching: save the result in the plan, or change the board at "
            "Boards."
        )
    return "Change the wires, or the channels at Wire." if wrong else ""


def _order(
    given: Given, channels: list[tuple[int, Probe]], width: int
) -> tuple[str, tuple[Table, bool]]:
    rows = given.rows("touches", width)
    given.fields.check()
    counts = np.array(rows, dtype=float).reshape(len(rows), width)
    try:
        order = order_of(counts[0], counts[1:], [i for i, _ in channels])
    except CalibrationError as exc:
        raise given.refused(exc, {}, "touches") from exc
    names = dict(channels)
    table = Table(
        title="Which channel changed",
        head=("Touched", "Should be on", "Moved", "by", "next most"),
        rows=tuple(
            (
                names[t.expected].name,
                str(t.expected),
                "none clearly" if t.moved is None else str(t.moved),
                _counts(t.counts),
                _counts(t.next_counts),
            )
            for t in order.touches
        ),
        figures=frozenset({1, 2, 3, 4}),
    )
    if order.right:
        return "every sensor changed its own channel", (table, False)
    return order.explains or "a sensor changed another channel", (table, True)


MULTIPLEXER = RecordingsBench(
    key="multiplexer",
    computed="multiplexer",
    called="a multiplexer",
    heading="Multiplexed inputs",
    does="order, settling, crosstalk",
    takes="5 min",
    subjects=boards_with_role("multiplexer"),
    asks=_fields_of,
    work=_calculate,
    begin="Touch one sensor after the other and see which channel changes.",
    empty="Note the counts of all channels at rest. Then warm, light or wet one sensor after "
    "the other and note all channels each time. Then read one channel after longer and longer "
    "waits.",
    enough=filled("touches", "waits", "low_counts"),
)
