"""Foresight held against what the replay then does, over the mill's month: counts, not times.

At 200 instants drawn over the month each load of the mill is asked what comes next; the replay of
the same record then tells. `python -m benchmarks.foresight` prints how many came true:

    stronger  535 of 538   by the calendar, unless something stronger speaks: in three it did
    steady    219 of 232   by what decides now, unless the readings change
    usual     192 of 214   between the times that are said; 80 % wanted
    quiet     675 of 704   nothing within the time that is said; 95 % wanted
    held        0 of  30   “if the readings stay as they are”, of a young record: they did not
    not told  282          the days before do not tell, and the page says so

Before the days before were asked, “nothing within 24 h” was right in 23 %, a likely time in 40 %.
"""

from collections import defaultdict
from collections.abc import Mapping

import numpy as np

from aldea.core.base.instants import MS_PER_DAY
from aldea.core.readings.trace import Trace
from aldea.core.rehearse.ahead import Ahead, HangsOn
from aldea.core.rehearse.foresight import HORIZON_MS, standing
from aldea.core.rehearse.load_parts import LoadPart, load_parts
from aldea.core.rehearse.rehearsal import rehearse
from aldea.core.rehearse.stretches import Stretch, stretches_of
from aldea.core.words.ahead import LEAST_QUIET_MS
from aldea.demo.mill import mill_plan
from aldea.demo.recorded import END_MS, START_MS, recorded_days
from aldea.native.engine import load_engine
from aldea.store.settings import Settings

INSTANTS = 200
SEED = 25
CERTAIN_MS = 2_000  # a scan, and the instant within it
FIRST_MS = START_MS + 4 * MS_PER_DAY  # foresight has seen days by then


def held_against(instants: int = INSTANTS) -> Mapping[str, tuple[int, int]]:
    """By what was announced (“nothing” among it): how many came true, and of how many."""
    plan = mill_plan()
    traces = {row.probe: row.trace for row in recorded_days()}
    count: dict[str, list[int]] = defaultdict(lambda: [0, 0])
    chance = np.random.default_rng(SEED)
    at = np.sort(chance.integers(FIRST_MS, END_MS - HORIZON_MS, instants))
    for part in set(load_parts(plan).values()):
        _part(part, traces, at.tolist(), count)
    return {key: (right, of) for key, (right, of) in sorted(count.items())}


def _part(
    part: LoadPart, traces: dict[str, Trace], at: list[int], count: dict[str, list[int]]
) -> None:
    own = {probe: traces[probe] for probe in part.reads if probe in traces}
    plan = part.compiled.plan
    run = rehearse(plan, own, start_ms=START_MS, end_ms=END_MS, compiled=part.compiled).run
    lines = {load: stretches_of(run, row) for row, load in enumerate(part.compiled.load_ids)}
    for at_ms in at:
        now = standing(part.compiled, own, start_ms=START_MS, at_ms=at_ms)
        for load, ahead in now.ahead.items():
            if load not in part.loads:
                continue
            quiet_ms = now.quiet_ms[load]
            key = ahead.hangs_on.value if ahead is not None else "quiet"
            if ahead is None and quiet_ms < LEAST_QUIET_MS:
                key = "not told"
            count[key][1] += 1
            count[key][0] += _came(ahead, lines[load], now.at_ms, quiet_ms)


def _came(ahead: Ahead | None, line: list[Stretch], at_ms: int, quiet_ms: int) -> bool:
    """Whether the replay then did what was announced, between the times that are said."""
    next_change = _next_change(line, at_ms)
    if ahead is None:
        return next_change is None or next_change[0] >= at_ms + quiet_ms
    if next_change is None:
        return False
    t_ms, state = next_change
    if ahead.hangs_on is HangsOn.USUAL:
        return state == ahead.state and ahead.early_ms <= t_ms <= ahead.late_ms
    return state == ahead.state and abs(t_ms - ahead.t_ms) <= CERTAIN_MS


def _next_change(line: list[Stretch], at_ms: int) -> tuple[int, int] | None:
    now = next((s for s in line if s.start_ms <= at_ms < s.end_ms), None)
    if now is None:
        return None
    later = next((s for s in line if s.start_ms > at_ms and s.state != now.state), None)
    return (later.start_ms, later.state) if later is not None else None


def main() -> None:
    """Print the counts."""
    load_engine(Settings().engine)
    for key, (right, of) in held_against().items():
        print(f"{key:10} {right:5} of {of:5}  {100 * right / of:5.1f} %")


if __name__ == "__main__":
    main()
