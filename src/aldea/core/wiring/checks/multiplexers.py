"""Checks of multiplexers: whether what they read has settled."""

from collections.abc import Iterator

from aldea.core.base.figures import figure, short
from aldea.core.devices.finding import Check, Finding
from aldea.core.devices.sensors.registry import sensor_device
from aldea.core.physics.divider import highest_source_ohm
from aldea.core.plan.board_types import board_types
from aldea.core.plan.document import Plan


def multiplexers_settle(plan: Plan) -> Iterator[Finding]:
    """A high resistance behind a multiplexer that does not settle in its time."""
    types = board_types(plan)
    rows = {row.signal: row for row in plan.assignments}
    for probe in plan.probes:
        row = rows.get(f"probe:{probe.id}.sense")
        board = plan.board(row.board) if row else None
        kind = types[board.board_type] if board else None
        if row is None or kind is None or kind.role != "multiplexer":
            continue
        device = sensor_device(probe)
        ohm = device.source_ohm(probe.sensor) if device is not None else 0.0
        most = highest_source_ohm(
            switch_ohm=100.0, hold_farad=100e-12, time_s=kind.settle_us * 1e-6, bits=12
        )
        if ohm > most:
            yield Finding(
                key=f"settle-{probe.id}",
                weight="warning",
                head=f"{probe.name} does not settle on {row.pin} in {short(kind.settle_us)} µs.",
                why=f"{figure(ohm / 1000, 0)} kΩ feed it; {figure(most / 1000)} kΩ would "
                "settle to half a count.",
                fix="Wait longer after switching, or put 100 nF at the channel.",
                at=f"probe:{probe.id}",
                pins=((row.board, row.pin),),
            )


MULTIPLEXER_CHECKS: tuple[Check, ...] = (multiplexers_settle,)
