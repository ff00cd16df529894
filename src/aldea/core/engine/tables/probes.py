"""Probes and derived signals: parameters and state."""

from aldea.core.engine.tables.rows import I8, I16, I32, I64, Real, Row, row

FILTER_NONE, FILTER_TIME, FILTER_MEAN, FILTER_MEDIAN = range(4)
FILTER_CODES = {"exponential": FILTER_TIME, "mean": FILTER_MEAN, "median": FILTER_MEDIAN}
(
    SIGNAL_MEAN,
    SIGNAL_HIGHEST,
    SIGNAL_LOWEST,
    SIGNAL_DIFFERENCE,
    SIGNAL_RATE,
    SIGNAL_DEW_POINT,
    SIGNAL_ABSOLUTE_HUMIDITY,
    SIGNAL_ECHO,
    SIGNAL_LESS_LAMP,
    SIGNAL_LUX,
    SIGNAL_RATIO,
) = range(11)


@row
class ProbeSpec(Row):
    """A probe: calibration, range, filter, and when its readings are not good."""

    slope: Real
    intercept: Real
    low: Real
    high: Real
    tau_s: Real
    stuck_band: Real
    jump_per_s: Real
    stale_ms: I64
    stuck_ms: I64
    warm_ms: I64
    good_run: I32
    ring: I32  # first cell of its last readings, for a mean or a median
    rates: I32  # the rates that it feeds: first and end in `rate_feeds`
    rates_end: I32
    takes: I16
    jump_after: I16
    filter: I8


@row
class ProbeNow(Row):
    """Where a probe stands."""

    filtered: Real
    value: Real
    anchor: Real
    base: Real
    jumped: Real
    last_ms: I64
    good_ms: I64
    anchor_ms: I64
    entered_ms: I64
    base_ms: I64
    jumped_ms: I64
    good_count: I32  # good samples in a row
    jumped_count: I16
    held: I16
    next: I16
    quality: I8
    seen_quality: I8
    been_good: I8


@row
class Quiet(Row):
    """For skipping: the open interval in which no condition on a probe changes.

    `feeds` says whether a derived signal reads it.
    """

    low: Real
    high: Real
    feeds: I8


@row
class SignalNow(Row):
    """What a scan reads of a probe or, in the rows after those, of a derived signal.

    `good_ms` is the instant of the last good sample; of a derived signal that is not good, the
    earliest of those of what is not good under it.
    """

    value: Real
    good_ms: I64
    good: I8


@row
class DerivedSpec(Row):
    """A signal that is calculated from others: `first` to `end` in `signal_members`."""

    a: Real
    b: Real
    c: Real
    d: Real
    over_ms: I64
    first: I32
    end: I32
    ring: I32  # of a rate: the first cell of its readings, and how many there may be
    room: I32
    load: I16
    kind: I8


@row
class RateNow(Row):
    """The ring of a rate: where the reading to compare with lies, how many are held."""

    first: I32
    held: I32
