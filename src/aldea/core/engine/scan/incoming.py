"""What comes in during a run: the clock and samples; what is lost in a cut; what comes next."""

from aldea.core.engine.scan.trust import take_sample
from aldea.core.engine.tables.run import RunTables


def take_inputs(run: RunTables, t_ms: int) -> None:
    """The clock, then samples, each in order of time."""
    at, head = run.now.cursor, run.now.head
    while at.clock < len(run.inputs.clock) and run.inputs.clock[at.clock].t_ms <= t_ms:
        clock = run.inputs.clock[at.clock]
        unbroken = head.clock_known == 1 and head.clock_low_ms < clock.says_ms
        head.clock_low_ms = head.clock_low_ms if unbroken else clock.says_ms
        head.clock_known = clock.known
        head.clock_base_ms = clock.says_ms - clock.t_ms
        at.clock += 1
    while at.sample < len(run.inputs.sample_ms) and run.inputs.sample_ms[at.sample] <= t_ms:
        trace_sample(run, at.sample)
        at.sample += 1


def trace_sample(run: RunTables, row: int) -> None:
    """Take one sample, and trace what it came to where somebody asked."""
    p = run.inputs.sample_probe[row]
    latest = take_sample(run, p, run.inputs.sample_ms[row], run.inputs.sample_value[row])
    if row < len(run.out.trace):
        run.out.trace[row] = latest
        run.out.qualities[row] = run.now.probes[p].quality


def lose_inputs(run: RunTables, before_ms: int) -> None:
    """What came while there was no power is lost; levels are what they are found as."""
    at, inputs = run.now.cursor, run.inputs
    while at.sample < len(inputs.sample_ms) and inputs.sample_ms[at.sample] < before_ms:
        at.sample += 1
    while at.message < len(inputs.messages) and inputs.messages[at.message].t_ms < before_ms:
        at.message += 1
    while at.clock < len(inputs.clock) and inputs.clock[at.clock].t_ms < before_ms:
        at.clock += 1
    run.now.head.stirred = 1


def next_input(run: RunTables, end_ms: int) -> int:
    """The first instant at which a level, a message, the clock or the power changes."""
    at, inputs = run.now.cursor, run.inputs
    first = end_ms
    if at.level < len(inputs.levels):
        first = min(first, inputs.levels[at.level].t_ms)
    if at.message < len(inputs.messages):
        first = min(first, inputs.messages[at.message].t_ms)
    if at.clock < len(inputs.clock):
        first = min(first, inputs.clock[at.clock].t_ms)
    if at.cut < len(inputs.cuts):
        first = min(first, inputs.cuts[at.cut].from_ms)
    return first
