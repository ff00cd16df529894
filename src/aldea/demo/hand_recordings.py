"""What the mill house's builder recorded by hand at its benches: seeded, the same every time.

One recording for each kind of bench that a recording is made for, with what was found from it then.
"""

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

SEED = 20251112


@dataclass(frozen=True, slots=True, kw_only=True)
class HandRecording:
    """The fields of a bench as they were typed, and what was found from them."""

    bench: str
    subject: str
    fields: dict[str, str]
    summary: str


def hand_recordings() -> Iterator[HandRecording]:
    """One for each kind of bench."""
    rng = np.random.default_rng(SEED)
    yield HandRecording(
        bench="tape",
        subject="manifold_tape",
        fields={"readings": _words(np.round(rng.normal(2048, 4.5, 40)), 0)},
        summary="Manifold tape: forty readings of the dry tape.",
    )
    yield HandRecording(
        bench="radar",
        subject="stair_radar",
        fields={
            "empty": _lines(rng.gamma(4.0, 2.2, (120, 8)), 1),
            "occupied": _lines(rng.gamma(4.0, np.array([9, 14, 19, 16, 11, 7, 4, 3]), (120, 8)), 1),
            "gaps": _words(rng.gamma(1.2, 14.0, 72), 1),
        },
        summary="Stair radar: two minutes empty, two with somebody on the bench.",
    )
    yield HandRecording(
        bench="hold",
        subject="door_outer",
        fields={
            "source": "typed",
            "detections": _words(np.cumsum(rng.gamma(0.9, 30.0, 90)), 1),
        },
        summary="Outer door motion: three quarters of an hour, Ines reading on the stair.",
    )
    yield HandRecording(
        bench="doorway",
        subject="door_outer",
        fields={"inner": "door_inner", "passes": _passes(rng), "entries": "14", "exits": "11"},
        summary="Outer door motion: an hour at the door, Jon counting.",
    )
    yield HandRecording(
        bench="distance",
        subject="cart_distance",
        fields={
            "empty": _words(rng.normal(2.84, 0.004, 14), 3),
            "occupied": _words(rng.normal(1.93, 0.005, 14), 3),
            "at_degc": "16",
            "low_degc": "-2",
            "high_degc": "34",
        },
        summary="Cart distance: fourteen readings each.",
    )
    yield HandRecording(
        bench="contact",
        subject="skylight_shut",
        fields={"at_end": "open", "away": "closed", "edges": _edges(rng)},
        summary="Skylight shut reed: worked ten times by hand.",
    )
    yield HandRecording(
        bench="light",
        subject="stair_light",
        fields={
            "ohm_1": "21400",
            "ohm_2": "4150",
            "lamp_on": "31.5 32.1 31.8 31.2",
            "lamp_off": "8.1 8.3 8.0 8.2",
        },
        summary="Stair light: two lights, and the lamp after dark.",
    )
    yield HandRecording(
        bench="gas",
        subject="studio_gas",
        fields={"curve": _warm_up(rng)},
        summary=("Studio solvent hint: two hours from switching on, windows open."),
    )
    yield HandRecording(
        bench="multiplexer",
        subject="rack_inputs",
        fields={
            "touches": _touches(rng),
            "waits": WAITS,
            "low_counts": "511",
            "high_counts": "512",
            "swing_counts": "820",
            "bits": "10",
        },
        summary="Rack: each thermistor held in the hand in turn.",
    )
    yield HandRecording(
        bench="addresses",
        subject="board_b",
        fields={"scan": "0x44 0x48", "codes": "28b1c74405000086 Courtyard temperature"},
        summary="Board B: a scan of both lines.",
    )

    yield HandRecording(
        bench="air",
        subject="drying_rh",
        fields={"reading": "66", "air_degc": "20.1", "surface": "factor", "outside_degc": "2"},
        summary="Drying room RH: a laundry day, the north wall.",
    )
    yield HandRecording(
        bench="detective",
        subject="studio_temp",
        fields={"counts": "3557", "known_degc": "18.5", "expanded_k": "0.8"},
        summary="Studio thermistor: what it read on the bench supply.",
    )
    yield HandRecording(
        bench="curve",
        subject="studio_temp",
        fields={"points": "0 32650\n10 19900\n25 10000\n50 3603"},
        summary="Studio thermistor: ice, the cellar, the studio and warm water, in ohms.",
    )
    yield HandRecording(
        bench="difference",
        subject="drying_temp",
        fields={
            "other": "studio_temp",
            "pairs": "20.0 20.31\n20.1 20.39\n20.2 20.52\n20.3 20.60",
        },
        summary="Drying room and studio thermometers in one stirred bath.",
    )


WAITS = "1 640\n2 561\n4 523\n8 512.4\n16 512\n32 512\n64 512"


def _words(values: np.ndarray, places: int) -> str:
    return " ".join(f"{v:.{places}f}" for v in values)


def _lines(rows: np.ndarray, places: int) -> str:
    return "\n".join("\t".join(f"{v:.{places}f}" for v in row) for row in rows)


def _passes(rng: np.random.Generator) -> str:
    """Fourteen in and eleven out over an hour; two of them stop in the door."""
    ways = ["AB"] * 4 + rng.permutation(["AB"] * 10 + ["BA"] * 11).tolist()
    starts = np.sort(rng.uniform(5, 3590, len(ways)).round(1))
    starts = starts[0] + np.cumsum(np.maximum(np.diff(starts, prepend=starts[0]), 9.0))
    rows = []
    for i, (way, start) in enumerate(zip(ways, starts, strict=True)):
        takes = 2.9 if i in (7, 18) else float(rng.uniform(0.5, 1.6))
        rows += [f"{start:.1f} {way[0]}", f"{start + takes:.1f} {way[1]}"]
    return "\n".join(rows)


def _edges(rng: np.random.Generator) -> str:
    """Ten movements, half a second apart or more, each with some bounces."""
    edges: list[float] = []
    at = 1000.0
    for _ in range(10):
        bounces = int(rng.integers(1, 5))
        edges += [at, *(at + np.sort(rng.uniform(0.4, 11.0, bounces))).tolist()]
        at += float(rng.uniform(700, 1900))
    return _words(np.array(edges), 1)


def _warm_up(rng: np.random.Generator) -> str:
    t = np.arange(0, 7201, 100)
    volts = 0.62 + 2.9 * np.exp(-t / 70) + rng.normal(0, 0.002, len(t))
    return "\n".join(f"{s} {v:.3f}" for s, v in zip(t, volts, strict=True))


def _touches(rng: np.random.Generator) -> str:
    """A row at rest and one for each of three thermistors, warmed by hand: counts of 1023."""
    rest = np.array([512, 515, 509, 3, 2, 4, 3, 2])
    rows = [rest]
    for channel in range(3):
        row = rest + rng.integers(-1, 2, 8)
        row[channel] -= 96
        rows.append(row)
    return "\n".join(" ".join(str(int(v)) for v in np.maximum(row, 0)) for row in rows)
