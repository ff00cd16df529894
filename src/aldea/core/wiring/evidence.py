"""Evidence is bound to its circuit: what was certified or recorded with another one is void."""

import hashlib
import json

from aldea.core.plan.board_types import board_types
from aldea.core.plan.document import Plan, Probe
from aldea.core.plan.one_part import lead_of
from aldea.core.plan.seats import home_of, seat_of

# Figures of a sensor that a bench finds: they come from evidence, and do not undo it.
FOUND = frozenset(
    {
        "gates",
        "hold_s",
        "inner",
        "longest_gap_s",
        "occupied_below_m",
        "clean_air_v",
        "alarm_ratio_1",
        "warm_up_s",
        "wet_ohm",
        "damp_ohm",
        "baseline_ohm",
        "threshold_lux",
        "own_lamp_lux",
        "curve",
        "code",
        "closed_means",
        "debounce_ms",
        "shortest_interval_s",
    }
)


def circuit_digest(plan: Plan, probe: Probe) -> str:
    """Sixteen hexadecimal digits of what a probe's readings pass through.

    Its part and resistors, its cable, the board, pin, logic and rail volts, reference and bits of
    its converter, and the multiplexer between. Names, places and other probes are not in it.
    """
    lead = lead_of(plan, probe)
    sensor = lead.sensor.model_dump(mode="json") if lead.sensor is not None else {}
    types = board_types(plan)
    seats = []
    for row in sorted(plan.assignments, key=lambda row: row.signal):
        if not row.signal.startswith(f"probe:{lead.id}."):
            continue
        seat = seat_of(plan, row.signal)
        if seat is None:
            continue
        board = seat[0]
        home = home_of(plan, board)
        kind, own = types[home.board_type], types[board.board_type]
        converter = [kind.converter_bits, kind.converter_v, kind.logic_v, list(kind.rails_v)]
        at = [board.id, own.id, seat[1], home.id, kind.id]
        seats.append([row.signal.rsplit(".", 1)[1], at, converter])
    rests_on = {
        "quantity": probe.quantity,
        "sensor": {key: value for key, value in sensor.items() if key not in FOUND},
        "cable": [lead.cable_m, lead.cable_mm2],
        "seats": seats,
    }
    text = json.dumps(rests_on, sort_keys=True)
    return hashlib.sha256(text.encode()).hexdigest()[:16]


def is_void(plan: Plan, probe: Probe) -> bool:
    """Whether a probe's certificate was signed for another circuit than the plan's."""
    signed_for = probe.calibration.circuit
    return bool(signed_for) and signed_for != circuit_digest(plan, probe)


VOID_WORDS = (
    "The circuit that it was signed for was changed: sensor, resistor, cable, board, pin or "
    "converter. It holds again when that is undone."
)
