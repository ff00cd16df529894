"""Digital sensors that answer on a bus or a wire: missing, twice, unexpected."""

from aldea.core.base.addresses import address_words
from aldea.core.base.errors import CalibrationError
from aldea.core.calibrate.addresses import (
    RESERVED,
    Listed,
    bus_address,
    listed_bus,
    listed_codes,
    single_wire_code,
)
from aldea.core.devices.sensors.bus.model import BusSensor
from aldea.core.devices.sensors.one_wire.model import OneWireSensor
from aldea.core.plan.document import Plan, Probe
from aldea.core.plan.edits import put_part
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


def _digital(plan: Plan, subject: str) -> tuple[list[Probe], list[Probe]]:
    on = [probe for probe, _ in on_board(plan, subject)]
    return (
        [p for p in on if isinstance(p.sensor, BusSensor)],
        [p for p in on if isinstance(p.sensor, OneWireSensor)],
    )


def _fields_of(plan: Plan, subject: str) -> tuple[Ask, ...]:
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
    names: list[str] = []
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
        if code in names:
            given.fields.refuse(
                "codes", f"{code} twice", "each code once: no two sensors share one"
            )
        names.append(code)
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
    return names, named


def _calculate(given: Given) -> Found:
    board, _ = board_of(given.plan, given.subject)
    bus, wire = _digital(given.plan, given.subject)
    tables: list[Table] = []
    wrong: list[str] = []
    if given.text("scan"):
        try:
            addresses = [bus_address(w) for w in given.text("scan").replace(",", " ").split()]
        except CalibrationError as exc:
            raise given.refused(exc, {}, "scan") from exc
        for address in addresses:
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
        rows = listed_bus(expected, addresses)
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

    def change(plan: Plan, _chosen: frozenset[str]) -> Plan:
        for probe_id, code in named.items():
            probe = plan.probe(probe_id)
            if probe is not None and isinstance(probe.sensor, OneWireSensor):
                changed = probe.sensor.model_copy(update={"code": code})
                plan = put_part(plan, "probe", probe.model_copy(update={"sensor": changed}))
        return plan

    return Found(
        verdict=Verdict(
            state="fails" if wrong else "holds",
            sentence=f"{board.name}: "
            f"{wrong[0] if wrong else 'everything that the plan expects answers'}"
            + (f", and {len(wrong) - 1} more." if len(wrong) > 1 else "."),
            rest="Missing: check the supply, address straps and wires. Duplicate: change one "
            "strap, or use another board."
            if wrong
            else "",
        ),
        tables=tuple(tables),
        takes=(
            Take(
                label=f"Save {len(named)} code{'s' if len(named) != 1 else ''} in the plan",
                change=change,
            ),
        )
        if named
        else (),
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
        rows=tuple((_both(r.address), ", ".join(r.names) or "–", r.verdict) for r in rows),
    )


def _both(address: str) -> str:
    """A bus address in both ways; a code of a single wire as it is."""
    return address_words(int(address, 16)) if address.startswith("0x") else address


ADDRESSES = RecordingsBench(
    key="addresses",
    called="a controller’s digital sensors",
    heading="Addresses",
    does="missing, twice, unexpected",
    takes="5 min",
    subjects=boards_with_role("controller"),
    asks=_fields_of,
    work=_calculate,
    begin="Let the board scan its bus and its single wire, and paste what answers.",
    empty="Run the board’s scan of the two-wire bus and of the single wire and paste the "
    "lists. Aldea compares them with what the plan expects on this board.",
    enough=filled("scan", "codes"),
)
