"""Light, sound, presence, doorway, gas, contact, multiplexer, addresses: values and laws."""

import math
from functools import partial

import numpy as np
import pytest
from hypothesis import given as drawn
from hypothesis import strategies as st

from aldea.core.base.errors import CalibrationError
from aldea.core.calibrate.addresses import (
    bus_address,
    checksum,
    listed_bus,
    listed_codes,
    single_wire_code,
)
from aldea.core.calibrate.contact import bounce_of, means_of
from aldea.core.calibrate.distance import geometry_of
from aldea.core.calibrate.doorway import (
    IN,
    OUT,
    Beam,
    Count,
    Pulse,
    by_beams,
    by_pulses,
    compared,
    in_order,
    passages_by_pulses,
    tried_on_others,
    try_gaps,
    turned_round,
    wrong_in_total,
)
from aldea.core.calibrate.gas import warm_up_of
from aldea.core.calibrate.light import law_of, own_lamp
from aldea.core.calibrate.multiplexer import (
    crosstalk_1,
    order_of,
    settle_time_s,
    settling_of,
)
from aldea.core.calibrate.presence_hold import gaps_of
from aldea.core.physics.divider import highest_source_ohm

PULSES = st.lists(st.tuples(st.floats(0, 1000), st.sampled_from(["A", "B"])), max_size=40).map(
    sorted
)


@drawn(PULSES, st.floats(0.1, 10))
def test_the_count_is_never_negative_and_turning_the_pair_round_changes_in_and_out(pulses, gap):
    count = by_pulses(pulses, longest_gap_s=gap)
    other = by_pulses(turned_round(pulses), longest_gap_s=gap)
    assert count.inside >= 0
    assert (count.entries, count.exits) == (other.exits, other.entries)
    assert 2 * (count.entries + count.exits) <= len(pulses)


@drawn(
    st.lists(st.tuples(st.integers(0, 6), st.sampled_from(["A", "B"])), max_size=30), st.randoms()
)
def test_the_order_of_lines_of_one_instant_decides_nothing(rows, chance):
    mixed = rows[:]
    chance.shuffle(mixed)
    first, second = ([(float(t), side) for t, side in sorted(some, key=lambda row: row[0])]
                     for some in (rows, mixed))  # fmt: skip
    assert by_pulses(first, longest_gap_s=2.0) == by_pulses(second, longest_gap_s=2.0)


def test_both_sides_at_one_instant_count_nothing():
    assert by_pulses([(1.0, "A"), (1.0, "B")], longest_gap_s=3.0) == Count(
        entries=0, exits=0, inside=0
    )
    whole: list[Beam] = [(0.0, "A", 1), (1.0, "B", 1), (2.0, "A", 0), (3.0, "B", 0)]
    assert by_beams(whole).entries == 1
    at_once: list[Beam] = [(0.0, "A", 1), (0.0, "B", 1), (2.0, "A", 0), (3.0, "B", 0)]
    for lines in (at_once, [at_once[1], at_once[0], *at_once[2:]]):
        assert by_beams(lines) == Count(entries=0, exits=0, inside=0)
    assert by_beams([*at_once, *[(t + 10, s, v) for t, s, v in whole]]).entries == 1


def test_the_middle_of_the_gaps_that_count_right_is_taken():
    pulses: list[Pulse] = [
        (0.0, "A"),
        (1.0, "B"),
        (20.0, "B"),
        (20.8, "A"),
        (40.0, "A"),
        (43.0, "B"),
    ]
    gaps = [0.5, 1.0, 1.5, 2.0, 2.5, 3.0]
    one_each = partial(wrong_in_total, entries=1, exits=1)
    rows, best = try_gaps(pulses, wrong_of=one_each, gaps_s=gaps)
    assert [row.wrong for row in rows] == [2, 0, 0, 0, 0, 1]
    assert best.longest_gap_s == 1.5
    passages = passages_by_pulses(pulses, longest_gap_s=best.longest_gap_s)
    assert wrong_in_total(passages, entries=2, exits=1) == 1


def test_gaps_are_tried_person_by_person_where_totals_would_hide_the_errors():
    """Below 1 s one is missed, above 3 s a phantom makes up for him: in total both are right."""
    pulses: list[Pulse] = [(0.0, "A"), (1.0, "B"), (20.0, "A"), (23.0, "B")]
    persons = [(1.0, IN)]

    def one_by_one(passages):
        return compared(passages, persons, within_s=5.0).wrong

    rows, best = try_gaps(pulses, wrong_of=one_by_one, gaps_s=[0.5, 1.5, 3.5])
    assert [row.wrong for row in rows] == [1, 0, 1]
    assert best.longest_gap_s == 1.5


def test_a_clock_that_runs_backwards_is_refused():
    for work in (lambda: in_order([1.0, 0.5]), lambda: gaps_of([1.0, 0.5])):
        with pytest.raises(CalibrationError, match="rising"):
            work()


@drawn(
    st.lists(st.floats(0, 5000), min_size=1, max_size=60).map(sorted),
    st.floats(1, 200),
)
def test_every_edge_is_in_one_movement_and_debounce_is_longer_than_the_bounce(edges, quiet):
    bounce = bounce_of(edges, quiet_ms=quiet)
    assert sum(burst.edges for burst in bounce.bursts) == len(edges)
    assert bounce.debounce_ms >= bounce.longest_ms
    if bounce.shortest_rest_ms is not None:
        assert bounce.shortest_rest_ms > quiet * (1 - 1e-9)


def test_a_contact_that_never_changes_tells_nothing():
    assert means_of("closed", "open") == "on"
    assert means_of("open", "closed") == "off"
    with pytest.raises(CalibrationError, match="magnet"):
        means_of("open", "open")


def seen(empty, occupied, *, compensated):
    return geometry_of(
        empty,
        occupied,
        at_degc=20.0,
        span_degc=(-10.0, 40.0),
        longest_m=4.0,
        compensated=compensated,
    )


def test_a_stray_echo_is_left_out_and_many_are_no_recording():
    """One of 4.0 m among 2.5 m made a noise of 287 mm, and the advice was about the air."""
    empty, occupied = [2.50, 2.51, 2.49, 2.50] * 5, [2.30, 2.31, 2.29, 2.30] * 5
    clean = seen(empty, occupied, compensated=True)
    one = seen([*empty, 4.0], occupied, compensated=True)
    assert (clean.stray, one.stray, one.readings) == (0, 1, 41)
    assert one.noise_m == pytest.approx(clean.noise_m)
    assert one.holds
    many = seen([*empty, *[3.9] * 6], occupied, compensated=True)
    assert many.stray == 6
    assert not many.is_clean
    assert not many.holds


def test_a_threshold_in_every_air():
    empty, occupied = [2.50, 2.51, 2.49, 2.50, 2.50, 0.0], [2.30, 2.31, 2.29, 2.30, 2.30]
    raw = seen(empty, occupied, compensated=False)
    known = seen(empty, occupied, compensated=True)
    assert raw.lost == 1
    assert raw.threshold_m == pytest.approx(2.40)
    # 20 °C was assumed: 30 K colder air reads 5.6 % further, 20 K warmer 3.2 % nearer.
    assert [row.empty_m for row in raw.rows] == pytest.approx(
        [2.5 * math.sqrt(293.15 / 263.15), 2.5, 2.5 * math.sqrt(293.15 / 313.15)], rel=1e-9
    )
    assert not raw.holds
    assert known.holds
    assert known.room_empty_m == pytest.approx(0.10)
    with pytest.raises(CalibrationError, match="changed over"):
        seen(occupied, empty[:5], compensated=True)


def test_a_warm_up_curve_is_read():
    t = np.arange(0, 900, 10.0)
    volts = 0.8 + 2.0 * np.exp(-t / 60)
    found = warm_up_of(t.tolist(), volts.tolist(), settled_pct=5)
    # 2.0 exp(−t/60) falls under 5 % of 0.8 V after 60 ln 50 = 234.7 s; a row comes every 10 s.
    assert found.warm_up_s == 240
    assert found.clean_air_v == pytest.approx(0.8, abs=0.005)
    assert found.alarm_v(1.5) == pytest.approx(1.2, abs=0.01)
    with pytest.raises(CalibrationError, match="Record longer"):
        warm_up_of(t[:12].tolist(), volts[:12].tolist(), settled_pct=5)
    with pytest.raises(CalibrationError, match="rising"):
        warm_up_of(t[::-1].tolist(), volts.tolist(), settled_pct=5)


def test_the_lamps_own_share_asks_for_a_gap():
    lamp = own_lamp([18.0, 18.4, 18.2], [6.0, 6.2, 6.1])
    assert lamp.share_lux == pytest.approx(12.1)
    assert lamp.width_lux == pytest.approx(12.1 + 3 * 0.2)
    with pytest.raises(CalibrationError, match="changed over"):
        own_lamp([6.0, 6.2, 6.1], [18.0, 18.4, 18.2])
    with pytest.raises(CalibrationError, match="changed over"):
        law_of((10, 100), (4000, 20_000))


FAULTS = {
    "": lambda c: c,
    "address lines 0 and 2 are changed over": lambda c: (c & 0b010) | (c & 1) << 2 | c >> 2,
    "address line 1 is inverted": lambda c: c ^ 0b010,
    "the order is reversed, or every address line is inverted": lambda c: 7 - c,
}


@pytest.mark.parametrize("fault", FAULTS, ids=lambda f: f or "right")
def test_crossed_address_lines_are_told_from_the_touches(fault):
    rest = np.full(8, 2000.0)
    touched = np.tile(rest, (5, 1)) + np.random.default_rng(3).normal(0, 2, (5, 8))
    channels = [0, 1, 3, 4, 6]
    for row, channel in enumerate(channels):
        touched[row, FAULTS[fault](channel)] -= 400
    order = order_of(rest, touched, channels)
    assert order.explains == fault
    assert order.right == (fault == "")
    with pytest.raises(CalibrationError, match="5 rows of 8"):
        order_of(rest, touched[:4], channels)


def test_settling_by_figures_and_by_a_recording():
    needed = settle_time_s(source_ohm=7500, switch_ohm=70, hold_farad=30e-12, bits=12)
    back = highest_source_ohm(switch_ohm=70, hold_farad=30e-12, time_s=needed, bits=12)
    assert back == pytest.approx(7500)
    waits = [1.0, 2.0, 4.0, 8.0, 16.0, 32.0]
    counts = [2000 + 800 * math.exp(-w / 1.5) for w in waits]
    settled = settling_of(waits, counts, within=0.5)
    assert settled.settled_us == 16.0
    assert settling_of(waits[:3], counts[:3], within=0.5).settled_us is None
    assert crosstalk_1(low_counts=2000, high_counts=2006, swing_counts=3000) == 0.002


def test_addresses_missing_twice_and_unexpected():
    rows = listed_bus([(0x44, "Drying"), (0x44, "Cellar"), (0x48, "Air")], [0x44, 0x3C])
    assert [(r.address, r.verdict) for r in rows] == [
        ("0x3c", "not in the plan"),
        ("0x44", "duplicate"),
        ("0x48", "missing"),
    ]
    assert [bus_address(t) for t in ("0x44", "44h", "68")] == [0x44, 0x44, 68]
    with pytest.raises(CalibrationError, match="0x44"):
        bus_address("0x88")


@drawn(st.binary(min_size=7, max_size=7).filter(any), st.integers(0, 63))
def test_a_code_with_a_flipped_bit_is_refused(body, bit):
    code = body.hex() + f"{checksum(body.hex()):02x}"
    assert single_wire_code(code.upper()) == code
    flipped = f"{int(code, 16) ^ 1 << bit:016x}"
    with pytest.raises(CalibrationError):
        single_wire_code(flipped)


def test_codes_are_listed_against_the_plan():
    rows = listed_codes([("aa", "Air"), ("", "Cellar")], ["aa", "bb"])
    assert [(r.address, r.names, r.verdict) for r in rows] == [
        ("aa", ("Air",), "found"),
        ("no code yet", ("Cellar",), "missing"),
        ("bb", (), "not in the plan"),
    ]


def test_errors_are_counted_person_by_person_where_totals_hide_them():
    """One came in unseen, and a cat was counted: the totals agree, two are wrong."""
    pulses: list[Pulse] = [(10.0, "A"), (11.0, "B"), (50.0, "A"), (50.5, "B")]
    persons = [(11.0, IN), (90.0, IN)]
    passages = passages_by_pulses(pulses, longest_gap_s=2.0)
    assert wrong_in_total(passages, entries=2, exits=0) == 0
    found = compared(passages, persons, within_s=5.0)
    assert (found.missed, found.extra, found.wrong) == (((90.0, IN),), ((50.5, IN),), 2)
    assert found.share.at_most_1 > found.share.counted_1 == 0.5
    other_way = compared(passages, [(11.0, OUT)], within_s=5.0)
    assert other_way.wrong == 3, "the wrong way is no match"


def test_a_gap_is_tried_on_persons_who_did_not_set_it():
    slow, quick = 2.4, 0.4
    persons: list[tuple[float, int]] = []
    pulses: list[Pulse] = []
    for n in range(12):
        at = 100.0 * n
        apart = quick if n < 6 else slow
        pulses += [(at, "A"), (at + apart, "B")]
        persons.append((at + apart, IN))
    gaps = [0.5, 1.0, 2.0, 3.0]
    all_in = partial(wrong_in_total, entries=12, exits=0)
    _, seen = try_gaps(pulses, wrong_of=all_in, gaps_s=gaps)
    assert seen.wrong == 0, "on the rows that set it every person is counted"
    chosen, tried = tried_on_others(pulses, persons, gaps_s=gaps, within_s=1.0)
    assert chosen == 2.0, "the middle of those that count the first half right"
    assert (tried.persons, tried.wrong) == (6, 6)
