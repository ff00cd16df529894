"""Section 13: how long a memory lasts, what is lost, the check of a record."""

import pytest
from tests.reference_cases.cases import adaptor, agrees, given

from aldea.core.physics.memory_life import (
    coalesced,
    crc16,
    crc32,
    delay_for,
    flash_life,
    lost_changes,
    memory_years,
    slots_for,
    unsaved_share,
)

MEMORY = 13


@adaptor("flash")
def flash(case):
    found = flash_life(
        record_bytes=given(case, "record_size"),
        sector_bytes=given(case, "sector_size"),
        sectors=given(case, "sectors"),
        erase_endurance=given(case, "erase_endurance"),
        writes_a_day=given(case, "writes_per_day"),
    )
    for key in ("records_per_sector", "total_writes", "years"):
        assert agrees(case, key, getattr(found, key))


@adaptor("slots")
def slots(case):
    endurance, writes = given(case, "endurance"), given(case, "writes_per_day")
    assert agrees(case, "years", memory_years(given(case, "slots"), endurance, writes))
    assert agrees(case, "slots_for_20_years", slots_for(20, endurance, writes))


@adaptor("coalesce", "coalescelife")
def coalesce(case):
    writes, unsaved = coalesced(
        given(case, "changes_per_hour"), given(case, "delay"), given(case, "policy")
    )
    assert agrees(case, "writes_per_day", writes)
    if "share_of_time_unsaved" in case["expected"]:
        assert agrees(case, "share_of_time_unsaved", unsaved)
    if "years" in case["expected"]:
        years = memory_years(given(case, "slots"), given(case, "endurance"), writes)
        assert agrees(case, "years", years)


@adaptor("delay")
def delay(case):
    if case["section"] != MEMORY:
        pytest.skip("the delay of a room, for which no function is yet")
    found = delay_for(
        given(case, "changes_per_hour"),
        years=given(case, "wanted_life"),
        slots=given(case, "slots"),
        endurance=given(case, "endurance"),
    )
    assert agrees(case, "delay", found)


@adaptor("loss")
def loss(case):
    share = unsaved_share(given(case, "changes_per_day"), given(case, "delay"))
    assert agrees(case, "probability", share)


@adaptor("outage")
def outage(case):
    chance, lost = lost_changes(
        given(case, "power_failures_per_year"),
        given(case, "delay"),
        given(case, "changes_per_day"),
    )
    assert agrees(case, "p_given_change_lost", chance)
    assert agrees(case, "changes_lost_per_year", lost)


@adaptor("crc")
def crc(case):
    record = bytes.fromhex(given(case, "bytes_hex"))
    assert int(case["expected"]["crc16_ccitt_false"]["value"], 16) == crc16(record)
    assert int(case["expected"]["crc32"]["value"], 16) == crc32(record)


@adaptor("bitflip")
def bitflip(case):
    record = bytearray.fromhex(given(case, "bytes_hex"))
    before = crc16(bytes(record))
    assert int(case["expected"]["crc_before"]["value"], 16) == before
    undetected = 0
    for bit in range(8 * len(record)):
        other = bytearray(record)
        other[bit // 8] ^= 1 << bit % 8
        undetected += crc16(bytes(other)) == before
    assert undetected == case["expected"]["undetected_single_bit_errors"]["value"]
