"""How long a memory lasts that is written again and again, and what is lost between two writes.

A day is 86,400 s, a year 365.25 days; changes come at random (Poisson) where a rate is given.
"""

import binascii
import math
import zlib
from dataclasses import dataclass
from typing import Literal

from aldea.core.base.limits import ABOVE_ZERO, ONE_OR_MORE, ZERO_OR_MORE, takes

DAYS_A_YEAR = 365.25
S_PER_DAY = 86_400.0
HOURS_A_DAY = 24.0
S_PER_HOUR = 3600.0
SLOTS, ASSUMED_ENDURANCE = 2, 100_000  # an ordinary flash; the board's own sheet says better
WANTED_YEARS = 10.0
Quiet = Literal["fixed_window", "restarting"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Flash:
    """Sectors that are filled record after record, then erased: records a sector, writes, years."""

    records_per_sector: int
    total_writes: int
    years: float


@takes(
    record_bytes=ONE_OR_MORE,
    sector_bytes=ONE_OR_MORE,
    sectors=ONE_OR_MORE,
    erase_endurance=ONE_OR_MORE,
    writes_a_day=ABOVE_ZERO,
)
def flash_life(
    *, record_bytes: int, sector_bytes: int, sectors: int, erase_endurance: int, writes_a_day: float
) -> Flash:
    """The life of flash sectors that are written in turn; whole records only in a sector."""
    records = sector_bytes // record_bytes
    total = records * sectors * erase_endurance
    return Flash(
        records_per_sector=records,
        total_writes=total,
        years=memory_years(1, total, writes_a_day),
    )


def memory_years(slots: int, endurance: int, writes_a_day: float) -> float:
    """Years until slots that are written in turn are used up; infinite where none is written."""
    if writes_a_day <= 0:
        return math.inf
    return slots * endurance / (writes_a_day * DAYS_A_YEAR)


@takes(years=ZERO_OR_MORE, endurance=ABOVE_ZERO, writes_a_day=ZERO_OR_MORE)
def slots_for(years: float, endurance: int, writes_a_day: float) -> int:
    """How many slots a wanted life needs, a whole number."""
    return math.ceil(years * writes_a_day * DAYS_A_YEAR / endurance)


def coalesced(changes_an_hour: float, delay_s: float, how: Quiet) -> tuple[float, float]:
    """Writes a day, and the share of the time in which something is not yet written.

    A fixed window is written `delay_s` after the first change: L/(1+LD) and LD/(1+LD). A restarting
    one after the last: L·e^(−LD) and 1−e^(−LD).
    """
    per_delay = changes_an_hour * delay_s / S_PER_HOUR
    if how == "fixed_window":
        return changes_an_hour / (1 + per_delay) * HOURS_A_DAY, per_delay / (1 + per_delay)
    still = math.exp(-per_delay)
    return changes_an_hour * still * HOURS_A_DAY, 1 - still


@takes(changes_an_hour=ABOVE_ZERO, years=ABOVE_ZERO, slots=ONE_OR_MORE, endurance=ABOVE_ZERO)
def delay_for(changes_an_hour: float, *, years: float, slots: int, endurance: int) -> float:
    """The fixed window, s, with which a memory lasts for some years; 0 where it does anyway."""
    allowed_an_hour = slots * endurance / (years * DAYS_A_YEAR) / HOURS_A_DAY
    if allowed_an_hour >= changes_an_hour:
        return 0.0
    return (changes_an_hour / allowed_an_hour - 1) / changes_an_hour * S_PER_HOUR


def unsaved_share(changes_a_day: float, delay_s: float) -> float:
    """The chance that at a random moment a change waits to be written; seldom changes only."""
    return changes_a_day * delay_s / S_PER_DAY


@takes(failures_a_year=ZERO_OR_MORE, delay_s=ZERO_OR_MORE, changes_a_day=ZERO_OR_MORE)
def lost_changes(
    failures_a_year: float, delay_s: float, changes_a_day: float
) -> tuple[float, float]:
    """The chance that a change is lost to a power failure, and how many are in a year."""
    chance = 1 - math.exp(-failures_a_year * delay_s / (DAYS_A_YEAR * S_PER_DAY))
    return chance, chance * changes_a_day * DAYS_A_YEAR


def crc16(record: bytes) -> int:
    """CRC-16/CCITT-FALSE: 0x1021, start 0xFFFF, not reflected."""
    return binascii.crc_hqx(record, 0xFFFF)


def crc32(record: bytes) -> int:
    """CRC-32 (ISO-HDLC): 0x04C11DB7, reflected, start and end XOR all ones."""
    return zlib.crc32(record)
