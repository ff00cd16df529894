"""Pages, codes, selectors and buttons: from what comes in to what it does, each once."""

from aldea.core.base.jit import kernel
from aldea.core.engine.layout import FOREVER, NEVER, NONE
from aldea.core.engine.scan.actions import act, waiting_commands
from aldea.core.engine.scan.views import (
    LOADS_NOW_INTS,
    PEOPLE_BUTTONS,
    PEOPLE_CODES,
    PEOPLE_MODES,
    PEOPLE_NOW_BUTTONS,
    PEOPLE_NOW_CODES,
    PEOPLE_NOW_INPUTS,
    PEOPLE_NOW_MODES,
    PEOPLE_NOW_SELECTORS,
    PEOPLE_POSITIONS,
    PEOPLE_SELECTORS,
    int_row,
    int_table,
)
from aldea.core.engine.tables.loads import O_HAND, O_HAND_AUTHOR, O_WAIT_MS
from aldea.core.engine.tables.people import (
    ANY_PATTERN,
    B_AUTHOR,
    B_DEBOUNCE_MS,
    B_DOUBLE,
    B_DOUBLE_END,
    B_DOUBLE_MS,
    B_INPUT,
    B_LOCKOUT_MS,
    B_LONG,
    B_LONG_END,
    B_LONG_MS,
    B_SHORT,
    B_SHORT_END,
    DONE,
    G_AUTHOR,
    G_END,
    G_FIRST,
    G_LOCKOUT_MS,
    IDLE,
    PRESSED,
    RELEASED,
    S_AT_BOOT,
    S_AUTHOR,
    S_END,
    S_FIRST,
    S_INPUT,
    S_LOAD,
    S_SETTLE_MS,
    T_END,
    T_FIRST,
    T_PATTERN,
    U_DOWN,
    U_FIRED_MS,
    U_PRESS_MS,
    U_RAW,
    U_RAW_MS,
    U_RELEASE_MS,
    U_STATE,
    UNREAD,
    Y_RAW,
    Y_RAW_MS,
    Y_SPOKEN,
)


@kernel
def hear_code(run: int, t_ms: int, code: int, at_ms: int) -> None:
    """A remote's code; one that came again too soon is taken for the same press."""
    last_ms = int_row(run, PEOPLE_NOW_CODES)[code]
    int_row(run, PEOPLE_NOW_CODES)[code] = at_ms
    codes = int_table(run, PEOPLE_CODES)
    if at_ms - last_ms >= codes[code, G_LOCKOUT_MS]:
        act(run, t_ms, codes[code, G_FIRST], codes[code, G_END], codes[code, G_AUTHOR])


@kernel
def turn_selectors(run: int, t_ms: int) -> None:
    """A position that has stood for its time and is not the one that spoke last."""
    selectors, at, inputs = (
        int_table(run, PEOPLE_SELECTORS),
        int_table(run, PEOPLE_NOW_SELECTORS),
        int_row(run, PEOPLE_NOW_INPUTS),
    )
    positions = int_table(run, PEOPLE_POSITIONS)
    for s in range(selectors.shape[0]):
        level = inputs[selectors[s, S_INPUT]]
        if level != at[s, Y_RAW]:
            at[s, Y_RAW] = level
            at[s, Y_RAW_MS] = t_ms
        load = selectors[s, S_LOAD]  # of one whose position holds again at once
        taken = load != NONE and (
            int_table(run, LOADS_NOW_INTS)[load, O_HAND] == NONE
            or int_table(run, LOADS_NOW_INTS)[load, O_HAND_AUTHOR] != selectors[s, S_AUTHOR]
        )
        if level == at[s, Y_SPOKEN] and not taken:
            continue
        if t_ms - at[s, Y_RAW_MS] < selectors[s, S_SETTLE_MS]:
            continue
        found = at[s, Y_SPOKEN] == UNREAD
        at[s, Y_SPOKEN] = level
        if found and selectors[s, S_AT_BOOT] == 0:
            continue
        for p in range(selectors[s, S_FIRST], selectors[s, S_END]):
            if positions[p, T_PATTERN] == level or positions[p, T_PATTERN] == ANY_PATTERN:
                act(
                    run,
                    t_ms,
                    positions[p, T_FIRST],
                    positions[p, T_END],
                    selectors[s, S_AUTHOR],
                )


@kernel
def press_buttons(run: int, t_ms: int) -> None:
    """First the times of long and double presses, then the edges."""
    buttons, at, inputs = (
        int_table(run, PEOPLE_BUTTONS),
        int_table(run, PEOPLE_NOW_BUTTONS),
        int_row(run, PEOPLE_NOW_INPUTS),
    )
    for b in range(buttons.shape[0]):
        author = buttons[b, B_AUTHOR]
        has_long = buttons[b, B_LONG] < buttons[b, B_LONG_END]
        has_double = buttons[b, B_DOUBLE] < buttons[b, B_DOUBLE_END]
        if at[b, U_STATE] == RELEASED and t_ms - at[b, U_RELEASE_MS] >= buttons[b, B_DOUBLE_MS]:
            at[b, U_STATE] = IDLE
            at[b, U_FIRED_MS] = t_ms
            act(run, t_ms, buttons[b, B_SHORT], buttons[b, B_SHORT_END], author)
        held_ms = t_ms - at[b, U_PRESS_MS]
        if at[b, U_STATE] == PRESSED and has_long and held_ms >= buttons[b, B_LONG_MS]:
            at[b, U_STATE] = DONE
            at[b, U_FIRED_MS] = t_ms
            act(run, t_ms, buttons[b, B_LONG], buttons[b, B_LONG_END], author)
        level = 1 if inputs[buttons[b, B_INPUT]] != 0 else 0
        if level != at[b, U_RAW]:
            at[b, U_RAW] = level
            at[b, U_RAW_MS] = t_ms
            if at[b, U_DOWN] == UNREAD:  # what is found at boot is no press
                at[b, U_DOWN] = level
        if level == at[b, U_DOWN] or t_ms - at[b, U_RAW_MS] < buttons[b, B_DEBOUNCE_MS]:
            continue
        at[b, U_DOWN] = level
        if level == 1:
            if at[b, U_STATE] == RELEASED:
                at[b, U_STATE] = DONE
                at[b, U_FIRED_MS] = t_ms
                act(run, t_ms, buttons[b, B_DOUBLE], buttons[b, B_DOUBLE_END], author)
            elif t_ms - at[b, U_FIRED_MS] < buttons[b, B_LOCKOUT_MS]:
                at[b, U_STATE] = DONE  # the whole press is ignored
            elif not has_long and not has_double:
                at[b, U_STATE] = DONE
                at[b, U_FIRED_MS] = t_ms
                act(run, t_ms, buttons[b, B_SHORT], buttons[b, B_SHORT_END], author)
            else:
                at[b, U_STATE] = PRESSED
                at[b, U_PRESS_MS] = t_ms
        elif at[b, U_STATE] == PRESSED:
            if has_double:
                at[b, U_STATE] = RELEASED
                at[b, U_RELEASE_MS] = t_ms
            else:
                at[b, U_STATE] = IDLE
                at[b, U_FIRED_MS] = t_ms
                act(run, t_ms, buttons[b, B_SHORT], buttons[b, B_SHORT_END], author)
        else:
            at[b, U_STATE] = IDLE


@kernel
def work_controls(run: int, t_ms: int) -> None:
    """Waiting members of groups, selectors, then buttons, each in the plan's order."""
    waiting_commands(run, t_ms)
    turn_selectors(run, t_ms)
    press_buttons(run, t_ms)


@kernel
def next_of_controls(run: int, t_ms: int) -> int:
    """The first instant after `t_ms` at which a control acts though nobody touches it."""
    first = FOREVER
    buttons, b_at = int_table(run, PEOPLE_BUTTONS), int_table(run, PEOPLE_NOW_BUTTONS)
    for b in range(buttons.shape[0]):
        if b_at[b, U_STATE] == RELEASED:
            first = min(first, b_at[b, U_RELEASE_MS] + buttons[b, B_DOUBLE_MS])
        if b_at[b, U_STATE] == PRESSED and buttons[b, B_LONG] < buttons[b, B_LONG_END]:
            first = min(first, b_at[b, U_PRESS_MS] + buttons[b, B_LONG_MS])
        if b_at[b, U_RAW] != b_at[b, U_DOWN]:
            first = min(first, b_at[b, U_RAW_MS] + buttons[b, B_DEBOUNCE_MS])
    selectors, s_at = int_table(run, PEOPLE_SELECTORS), int_table(run, PEOPLE_NOW_SELECTORS)
    for s in range(selectors.shape[0]):
        if s_at[s, Y_RAW] != s_at[s, Y_SPOKEN]:
            first = min(first, s_at[s, Y_RAW_MS] + selectors[s, S_SETTLE_MS])
        if selectors[s, S_LOAD] != NONE:
            load = selectors[s, S_LOAD]
            if int_table(run, LOADS_NOW_INTS)[load, O_HAND] == NONE:
                first = min(first, t_ms + 1)
    oi = int_table(run, LOADS_NOW_INTS)
    for load in range(oi.shape[0]):
        first = min(first, oi[load, O_WAIT_MS])
    return first


@kernel
def boot_controls(run: int) -> None:
    """After a boot nothing is known of what was pressed before."""
    b_at, s_at = int_table(run, PEOPLE_NOW_BUTTONS), int_table(run, PEOPLE_NOW_SELECTORS)
    for b in range(b_at.shape[0]):
        b_at[b, U_RAW] = UNREAD
        b_at[b, U_RAW_MS] = NEVER
        b_at[b, U_DOWN] = UNREAD
        b_at[b, U_STATE] = IDLE
        b_at[b, U_PRESS_MS] = NEVER
        b_at[b, U_RELEASE_MS] = NEVER
        b_at[b, U_FIRED_MS] = NEVER
    for s in range(s_at.shape[0]):
        s_at[s, Y_RAW] = UNREAD
        s_at[s, Y_RAW_MS] = NEVER
        s_at[s, Y_SPOKEN] = UNREAD
    for code in range(int_row(run, PEOPLE_NOW_CODES).shape[0]):
        int_row(run, PEOPLE_NOW_CODES)[code] = NEVER
    for mode in range(int_row(run, PEOPLE_NOW_MODES).shape[0]):
        int_row(run, PEOPLE_NOW_MODES)[mode] = int_table(run, PEOPLE_MODES)[mode, 0]
