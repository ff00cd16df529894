"""Several sensors on one line: a multiplexer, and the addresses of digital ones."""

import math
from collections.abc import Callable

import numpy as np

from aldea.core.calibrate.addresses import (
    RESERVED,
    Listed,
    bus_address,
    listed_bus,
    listed_codes,
    single_wire_code,
)
from aldea.core.calibrate.multiplexer import (
    crosstalk_1,
    order_of,
    settle_time_s,
    settling_of,
)
from aldea.core.errors import CalibrationError, InputError
from aldea.core.plan.board_types import board_types
from aldea.core.plan.build import fresh_id, put_part
from aldea.core.plan.document import Plan, Probe
from aldea.core.plan.sensors import BusSensor, LeakTape, LightResistor, OneWireSensor, Thermistor
from aldea.core.plan.wiring import Board, BoardType
from aldea.core.sensing.divider import source_ohm
from aldea.core.words.figures import figure, short
from aldea.core.words.verdicts import Verdict
from aldea.web.trials.base import Ask, Found, Given, Table, Trial, filled
from aldea.web.views.sketch import make_sketch

SWITCH_OHM, HOLD_FARAD = 70.0, 30e-12  # an ordinary analog switch and sample-and-hold
MOST_CROSSTALK_1 = 0.002
WAIT_MARGIN_1 = 1.5


def _board(plan: Plan, subject: str) -> tuple[Board, BoardType]:
    for board in plan.boards:
        if board.id == subject:
            return board, board_types(plan)[board.board_type]
    raise InputError("board", got=repr(subject), allowed="a board of this house")


def _with_role(role: str) -> Callable[[Plan], tuple[tuple[str, str], ...]]:
    def subjects(plan: Plan) -> tuple[tuple[str, str], ...]:
        types = board_types(plan)
        return tuple((b.id, b.name) for b in plan.boards if types[b.board_type].role == role)

    return subjects


def _on_board(plan: Plan, board_id: str) -> list[tuple[Probe, str]]:
    """The probes with a line on a board, and the pin."""
    found = []
    for probe in plan.probes:
        for a in plan.assignments:
            if a.board == board_id and a.signal.startswith(f"probe:{probe.id}."):
                found.append((probe, a.pin))
                break
    return found


def _channels(plan: Plan, subject: str) -> list[tuple[int, Probe]]:
    _, kind = _board(plan, subject)
    places = {pin.name: i for i, pin in enumerate(kind.pins)}
    return sorted(
        ((places[pin], probe) for probe, pin in _on_board(plan, subject) if pin in places),
        key=lambda row: row[0],
    )


def _mux_asks(plan: Plan, subject: str) -> tuple[Ask, ...]:
    _, kind = _board(plan, subject)
    order = ", ".join(f"{i} {probe.name}" for i, probe in _channels(plan, subject))
    return (
        Ask(
            name="touches",
            label=f"Counts of all {len(kind.pins)} channels: a row at rest, a row for each touch",
            rows=6,
            note=f"Warm or short one sensor after the other, in the order of their channels: "
            f"{order}."
            if order
            else "No sensor sits on it yet: assign the pins at Wire.",
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


def _mux_work(given: Given) -> Found:
    asks = {ask.name: ask for ask in _mux_asks(given.plan, given.subject)}
    board, kind = _board(given.plan, given.subject)
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
            mark="fails" if wrong else "holds",
            sentence=f"{board.name}: {'; '.join(wrong or shown)}.",
            rest=" ".join(filter(None, (_mend(wrong), _rest(shown) if wrong else ""))),
        ),
        facts=tuple(facts),
        tables=tuple(tables),
        sketches=tuple(sketches),
        change=_waiting(given.subject, wait_us) if wait_us else None,
        taken=f"Let {board.name} wait {short(wait_us or 0)} µs",
    )


def _waiting(board_id: str, wait_us: float) -> Callable[[Plan], Plan]:
    """A change that lets a board wait longer; a kind that ships becomes one of the house's own."""

    def change(plan: Plan) -> Plan:
        board, kind = _board(plan, board_id)
        own = any(kind.id == other.id for other in plan.board_types)
        facts: dict[str, object] = {"settle_us": wait_us}
        if not own:
            name = f"{kind.name}, waits {short(wait_us)} µs"
            facts |= {"id": fresh_id(name, board_types(plan)), "name": name[:80]}
        made = kind.model_copy(update=facts)
        plan = put_part(plan, "board_type", made)
        return put_part(plan, "board", board.model_copy(update={"board_type": made.id}))

    return change


def _rest(shown: list[str]) -> str:
    return f"{'; '.join(shown).capitalize()}." if shown else ""


def _counts(value: float) -> str:
    return f"{figure(value, 0)} count{'s' if round(value) != 1 else ''}"


def _mend(wrong: list[str]) -> str:
    if any("crosstalk" in w for w in wrong):
        return (
            "Wait longer after switching, or throw the first conversion away; 100 nF at the "
            "common line where the sources are high."
        )
    if any("wait" in w for w in wrong):
        return "Wait longer after switching: take what was found, or change the board at Boards."
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
        title="Which channel moved",
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
        return "every sensor moved its own channel", (table, False)
    return order.explains or "a sensor moved another channel", (table, True)


MULTIPLEXER = Trial(
    key="multiplexer",
    called="a multiplexer",
    heading="Multiplexed inputs",
    subjects=_with_role("multiplexer"),
    asks=_mux_asks,
    work=_mux_work,
    begin="Touch one sensor after the other and look which channel moves.",
    empty="Note the counts of all channels at rest. Then warm, light or wet one sensor after "
    "the other and note all channels each time. Then read one channel after longer and longer "
    "waits.",
    enough=filled("touches", "waits", "low_counts"),
)


def _digital(plan: Plan, subject: str) -> tuple[list[Probe], list[Probe]]:
    on = [probe for probe, _ in _on_board(plan, subject)]
    return (
        [p for p in on if isinstance(p.sensor, BusSensor)],
        [p for p in on if isinstance(p.sensor, OneWireSensor)],
    )


def _address_asks(plan: Plan, subject: str) -> tuple[Ask, ...]:
    bus, wire = _digital(plan, subject)
    return (
        Ask(
            name="scan",
            label="Addresses that answered on the bus",
            rows=3,
            note="7 bits, such as 0x44 0x48. "
            + (f"The plan expects {len(bus)}." if bus else "The plan has none on this board."),
        ),
        Ask(
            name="codes",
            label="Codes on the single wire, one a line",
            rows=4,
            note="16 digits; behind it the probe’s name where you know it (warm one in the "
            "hand and see which rises). "
            + (f"The plan expects {len(wire)}." if wire else "The plan has none on this board."),
        ),
    )


def _named_codes(given: Given, wire: list[Probe]) -> tuple[list[str], dict[str, str]]:
    found: list[str] = []
    named: dict[str, str] = {}
    by_name = {p.name.lower(): p.id for p in wire}
    for line in given.text("codes").splitlines():
        if not line.strip():
            continue
        first, *rest = line.strip().split(maxsplit=1)
        try:
            code = single_wire_code(first)
        except CalibrationError as exc:
            raise given.refused(exc, {}, "codes") from exc
        if code in found:
            given.fields.refuse(
                "codes", f"{code} twice", "each code once: no two sensors share one"
            )
        found.append(code)
        if rest:
            name = rest[0].strip().lower()
            if name not in by_name:
                given.fields.refuse(
                    "codes", repr(rest[0]), ", ".join(p.name for p in wire) or "no probe here"
                )
            elif by_name[name] in named:
                given.fields.refuse("codes", f"{rest[0]} twice", "one code for a probe")
            else:
                named[by_name[name]] = code
    return found, named


def _address_work(given: Given) -> Found:
    board, _ = _board(given.plan, given.subject)
    bus, wire = _digital(given.plan, given.subject)
    tables: list[Table] = []
    wrong: list[str] = []
    if given.text("scan"):
        try:
            found = [bus_address(w) for w in given.text("scan").replace(",", " ").split()]
        except CalibrationError as exc:
            raise given.refused(exc, {}, "scan") from exc
        for address in found:
            if address in RESERVED:
                given.fields.refuse(
                    "scan", f"0x{address:02x}", "0x08 to 0x77; the others are reserved"
                )
        given.fields.check()
        expected = [(p.sensor.address, p.name) for p in bus if isinstance(p.sensor, BusSensor)]
        expected += [
            (b.address, b.name)
            for b in given.plan.boards
            if b.host == board.id and b.address is not None
        ]
        rows = listed_bus(expected, found)
        tables.append(_table("Two-wire bus", rows))
        wrong += _complaints(rows)
    found_codes, named = _named_codes(given, wire)
    given.fields.check()
    if found_codes:
        known = [
            (
                named.get(p.id) or (p.sensor.code if isinstance(p.sensor, OneWireSensor) else ""),
                p.name,
            )
            for p in wire
        ]
        rows = listed_codes(known, found_codes)
        tables.append(_table("Single wire", rows))
        wrong += _complaints(rows)

    def change(plan: Plan) -> Plan:
        for probe_id, code in named.items():
            probe = plan.probe(probe_id)
            if probe is not None and isinstance(probe.sensor, OneWireSensor):
                made = probe.sensor.model_copy(update={"code": code})
                plan = put_part(plan, "probe", probe.model_copy(update={"sensor": made}))
        return plan

    return Found(
        verdict=Verdict(
            mark="fails" if wrong else "holds",
            sentence=f"{board.name}: "
            f"{wrong[0] if wrong else 'everything that the plan expects answers'}"
            + (f", and {len(wrong) - 1} more." if len(wrong) > 1 else "."),
            rest="Missing: supply, address straps, a broken line. Twice: change one strap, or "
            "put one on another board."
            if wrong
            else "",
        ),
        tables=tuple(tables),
        change=change if named else None,
        taken=f"Take {len(named)} code{'s' if len(named) != 1 else ''} into the plan",
    )


def _complaints(rows: tuple[Listed, ...]) -> list[str]:
    return [
        f"{' and '.join(row.names) or row.address} {_SAID[row.verdict]}"
        for row in rows
        if row.verdict != "found"
    ]


_SAID = {
    "missing": "does not answer",
    "duplicate": "share one address",
    "not in the plan": "answers and is not in the plan",
}


def _table(title: str, rows: tuple[Listed, ...]) -> Table:
    return Table(
        title=title,
        head=("Address", "Whose", "Scan"),
        rows=tuple((r.address, ", ".join(r.names) or "–", r.verdict) for r in rows),
    )


ADDRESSES = Trial(
    key="addresses",
    called="a controller’s digital sensors",
    heading="Addresses",
    subjects=_with_role("controller"),
    asks=_address_asks,
    work=_address_work,
    begin="Let the board scan its bus and its single wire, and paste what answers.",
    empty="Run the board’s scan of the two-wire bus and of the single wire and paste the "
    "lists. Aldea compares them with what the plan expects on this board.",
    enough=filled("scan", "codes"),
)
