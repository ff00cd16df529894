"""What comes in during a run: the clock, samples, levels, messages; and when the next does."""

from aldea.core.base.arrays import IntArray
from aldea.core.base.jit import kernel
from aldea.core.engine.scan.actions import act
from aldea.core.engine.scan.arrays import (
    AT_CLOCK,
    AT_CUT,
    AT_LEVEL,
    AT_MESSAGE,
    AT_SAMPLE,
    H_BOOTED_MS,
    H_CLOCK_BASE,
    H_CLOCK_KNOWN,
    H_STIRRED,
    I_MS,
    I_TO,
    I_WHO,
    J_AUTHOR,
    J_CODE,
    J_END,
    J_FIRST,
    J_MS,
    Y_FROM_MS,
)
from aldea.core.engine.scan.people import hear_code
from aldea.core.engine.scan.trust import take_sample
from aldea.core.engine.scan.views import (
    INPUTS_CLOCK,
    INPUTS_CUTS,
    INPUTS_LEVELS,
    INPUTS_MESSAGES,
    INPUTS_SAMPLE_MS,
    INPUTS_SAMPLE_PROBE,
    INPUTS_SAMPLE_VALUE,
    OUT_QUALITIES,
    OUT_TRACE,
    PEOPLE_NOW_INPUTS,
    PROBES_FLOATS,
    PROBES_INTS,
    PROBES_NOW_FLOATS,
    PROBES_NOW_INTS,
    RUN_HEAD,
    float_row,
    float_table,
    int_row,
    int_table,
)
from aldea.core.engine.tables.probes import (
    S_QUALITY,
)


@kernel
def take_inputs(
    run: int,
    at: IntArray,
    t_ms: int,
) -> None:
    """The clock, then samples, then the level that every digital input has now."""
    head = int_row(run, RUN_HEAD)
    while (
        at[AT_CLOCK] < int_table(run, INPUTS_CLOCK).shape[0]
        and int_table(run, INPUTS_CLOCK)[at[AT_CLOCK], 0] <= t_ms
    ):
        row = at[AT_CLOCK]
        head[H_CLOCK_KNOWN] = int_table(run, INPUTS_CLOCK)[row, 2]
        head[H_CLOCK_BASE] = (
            int_table(run, INPUTS_CLOCK)[row, 1] - int_table(run, INPUTS_CLOCK)[row, 0]
        )
        at[AT_CLOCK] += 1
    while at[AT_SAMPLE] < int_row(run, INPUTS_SAMPLE_MS).shape[0]:
        row = at[AT_SAMPLE]
        if int_row(run, INPUTS_SAMPLE_MS)[row] > t_ms:
            break
        one_sample(run, row)
        at[AT_SAMPLE] += 1
    while (
        at[AT_LEVEL] < int_table(run, INPUTS_LEVELS).shape[0]
        and int_table(run, INPUTS_LEVELS)[at[AT_LEVEL], I_MS] <= t_ms
    ):
        row = at[AT_LEVEL]
        int_row(run, PEOPLE_NOW_INPUTS)[int_table(run, INPUTS_LEVELS)[row, I_WHO]] = int_table(
            run, INPUTS_LEVELS
        )[row, I_TO]
        at[AT_LEVEL] += 1


@kernel
def one_sample(run: int, row: int) -> None:
    """Take one sample, and trace what it came to where somebody asked."""
    p = int_row(run, INPUTS_SAMPLE_PROBE)[row]
    latest = take_sample(
        run,
        float_table(run, PROBES_FLOATS),
        int_table(run, PROBES_INTS),
        float_table(run, PROBES_NOW_FLOATS),
        int_table(run, PROBES_NOW_INTS),
        p,
        int_row(run, INPUTS_SAMPLE_MS)[row],
        float_row(run, INPUTS_SAMPLE_VALUE)[row],
        int_row(run, RUN_HEAD)[H_BOOTED_MS],
    )
    if row < float_row(run, OUT_TRACE).shape[0]:
        float_row(run, OUT_TRACE)[row] = latest
        int_row(run, OUT_QUALITIES)[row] = int_table(run, PROBES_NOW_INTS)[p, S_QUALITY]


@kernel
def hear_messages(
    run: int,
    at: IntArray,
    t_ms: int,
) -> None:
    """Pages and codes, in order of time."""
    messages = int_table(run, INPUTS_MESSAGES)
    while at[AT_MESSAGE] < messages.shape[0] and messages[at[AT_MESSAGE], J_MS] <= t_ms:
        row = at[AT_MESSAGE]
        if messages[row, J_CODE] >= 0:
            hear_code(run, t_ms, messages[row, J_CODE], messages[row, J_MS])
        else:
            act(
                run,
                t_ms,
                messages[row, J_FIRST],
                messages[row, J_END],
                messages[row, J_AUTHOR],
            )
        at[AT_MESSAGE] += 1


@kernel
def lose_inputs(run: int, at: IntArray, before_ms: int) -> None:
    """What came while there was no power is lost; levels are what they are."""
    while (
        at[AT_SAMPLE] < int_row(run, INPUTS_SAMPLE_MS).shape[0]
        and int_row(run, INPUTS_SAMPLE_MS)[at[AT_SAMPLE]] < before_ms
    ):
        at[AT_SAMPLE] += 1
    while (
        at[AT_MESSAGE] < int_table(run, INPUTS_MESSAGES).shape[0]
        and int_table(run, INPUTS_MESSAGES)[at[AT_MESSAGE], J_MS] < before_ms
    ):
        at[AT_MESSAGE] += 1
    while (
        at[AT_CLOCK] < int_table(run, INPUTS_CLOCK).shape[0]
        and int_table(run, INPUTS_CLOCK)[at[AT_CLOCK], 0] < before_ms
    ):
        at[AT_CLOCK] += 1
    int_row(run, RUN_HEAD)[H_STIRRED] = 1


@kernel
def next_input(run: int, at: IntArray, end_ms: int) -> int:
    """The first instant at which a level, a message, the clock or the power changes."""
    first = end_ms
    if at[AT_LEVEL] < int_table(run, INPUTS_LEVELS).shape[0]:
        first = min(first, int_table(run, INPUTS_LEVELS)[at[AT_LEVEL], I_MS])
    if at[AT_MESSAGE] < int_table(run, INPUTS_MESSAGES).shape[0]:
        first = min(first, int_table(run, INPUTS_MESSAGES)[at[AT_MESSAGE], J_MS])
    if at[AT_CLOCK] < int_table(run, INPUTS_CLOCK).shape[0]:
        first = min(first, int_table(run, INPUTS_CLOCK)[at[AT_CLOCK], 0])
    if at[AT_CUT] < int_table(run, INPUTS_CUTS).shape[0]:
        first = min(first, int_table(run, INPUTS_CUTS)[at[AT_CUT], Y_FROM_MS])
    return first
