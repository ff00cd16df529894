"""Pages, codes, selectors and buttons: from what comes in to what it does, each once."""

from aldea.core.engine.layout import FOREVER, NEVER, NONE
from aldea.core.engine.scan.actions import act, waiting_commands
from aldea.core.engine.tables.people import (
    ANY_PATTERN,
    DONE,
    IDLE,
    PRESSED,
    RELEASED,
    UNREAD,
)
from aldea.core.engine.tables.run import RunTables


def hear_code(run: RunTables, t_ms: int, code: int, at_ms: int) -> None:
    """A remote's code; one that came again too soon is taken for the same press."""
    spec = run.plan.codes[code]
    last_ms = run.now.code_ms[code]
    run.now.code_ms[code] = at_ms
    if at_ms - last_ms >= spec.lockout_ms:
        act(run, t_ms, spec.first, spec.end, spec.author)


def turn_selectors(run: RunTables, t_ms: int) -> None:
    """A position that has stood for its time and is not the one that spoke last."""
    for s in range(len(run.plan.selectors)):
        spec, now = run.plan.selectors[s], run.now.selectors[s]
        level = run.now.inputs[spec.input]
        if level != now.raw:
            now.raw = level
            now.raw_ms = t_ms
        taken = False
        if spec.load != NONE:  # of one whose position holds again at once
            held = run.now.loads[spec.load]
            taken = held.hand == NONE or held.hand_author != spec.author
        if level == now.spoken and not taken:
            continue
        if t_ms - now.raw_ms < spec.settle_ms:
            continue
        found = now.spoken == UNREAD
        now.spoken = level
        if found and spec.at_boot == 0:
            continue
        for p in range(spec.first, spec.end):
            position = run.plan.positions[p]
            if position.pattern == level or position.pattern == ANY_PATTERN:
                act(run, t_ms, position.first, position.end, spec.author)


def short_press(run: RunTables, b: int, t_ms: int, state: int) -> None:
    """A short press is done; the button is left in a state."""
    spec, now = run.plan.buttons[b], run.now.buttons[b]
    now.state = state
    now.fired_ms = t_ms
    act(run, t_ms, spec.short_first, spec.short_end, spec.author)


def press_due(run: RunTables, b: int, t_ms: int) -> None:
    """What falls due while nothing moves: a short press that stayed alone, a long one."""
    spec, now = run.plan.buttons[b], run.now.buttons[b]
    if now.state == RELEASED and t_ms - now.release_ms >= spec.double_ms:
        short_press(run, b, t_ms, IDLE)
    has_long = spec.long_first < spec.long_end
    if now.state == PRESSED and has_long and t_ms - now.press_ms >= spec.long_ms:
        now.state = DONE
        now.fired_ms = t_ms
        act(run, t_ms, spec.long_first, spec.long_end, spec.author)


def button_down(run: RunTables, b: int, t_ms: int) -> None:
    """A button goes down."""
    spec, now = run.plan.buttons[b], run.now.buttons[b]
    has_long = spec.long_first < spec.long_end
    has_double = spec.double_first < spec.double_end
    if now.state == RELEASED:
        now.state = DONE
        now.fired_ms = t_ms
        act(run, t_ms, spec.double_first, spec.double_end, spec.author)
    elif t_ms - now.fired_ms < spec.lockout_ms:
        now.state = DONE  # the whole press is ignored
    elif not has_long and not has_double:
        short_press(run, b, t_ms, DONE)
    else:
        now.state = PRESSED
        now.press_ms = t_ms


def button_up(run: RunTables, b: int, t_ms: int) -> None:
    """A button is released."""
    spec, now = run.plan.buttons[b], run.now.buttons[b]
    if now.state != PRESSED:
        now.state = IDLE
    elif spec.double_first < spec.double_end:
        now.state = RELEASED
        now.release_ms = t_ms
    else:
        short_press(run, b, t_ms, IDLE)


def press_buttons(run: RunTables, t_ms: int) -> None:
    """First the times of long and double presses, then the edges."""
    for b in range(len(run.plan.buttons)):
        spec, now = run.plan.buttons[b], run.now.buttons[b]
        press_due(run, b, t_ms)
        level = 1 if run.now.inputs[spec.input] != 0 else 0
        if level != now.raw:
            now.raw = level
            now.raw_ms = t_ms
            if now.down == UNREAD:  # what is found at boot is no press
                now.down = level
        if level == now.down or t_ms - now.raw_ms < spec.debounce_ms:
            continue
        now.down = level
        if level == 1:
            button_down(run, b, t_ms)
        else:
            button_up(run, b, t_ms)


def work_controls(run: RunTables, t_ms: int) -> None:
    """Waiting members of groups, selectors, then buttons, each in the plan's order."""
    waiting_commands(run, t_ms)
    turn_selectors(run, t_ms)
    press_buttons(run, t_ms)


def next_of_controls(run: RunTables, t_ms: int) -> int:
    """The first instant after `t_ms` at which a control acts though nobody touches it."""
    first = FOREVER
    for b in range(len(run.plan.buttons)):
        button, pressed = run.plan.buttons[b], run.now.buttons[b]
        if pressed.state == RELEASED:
            first = min(first, pressed.release_ms + button.double_ms)
        if pressed.state == PRESSED and button.long_first < button.long_end:
            first = min(first, pressed.press_ms + button.long_ms)
        if pressed.raw != pressed.down:
            first = min(first, pressed.raw_ms + button.debounce_ms)
    for s in range(len(run.plan.selectors)):
        selector, turned = run.plan.selectors[s], run.now.selectors[s]
        if turned.raw != turned.spoken:
            first = min(first, turned.raw_ms + selector.settle_ms)
        if selector.load != NONE and run.now.loads[selector.load].hand == NONE:
            first = min(first, t_ms + 1)
    for load in range(len(run.plan.loads)):
        first = min(first, run.now.loads[load].wait_ms)
    return first


def boot_controls(run: RunTables) -> None:
    """After a boot nothing is known of what was pressed before."""
    for b in range(len(run.plan.buttons)):
        button = run.now.buttons[b]
        button.raw = UNREAD
        button.raw_ms = NEVER
        button.down = UNREAD
        button.state = IDLE
        button.press_ms = NEVER
        button.release_ms = NEVER
        button.fired_ms = NEVER
    for s in range(len(run.plan.selectors)):
        selector = run.now.selectors[s]
        selector.raw = UNREAD
        selector.raw_ms = NEVER
        selector.spoken = UNREAD
    for code in range(len(run.plan.codes)):
        run.now.code_ms[code] = NEVER
    for mode in range(len(run.plan.modes)):
        run.now.modes[mode] = run.plan.modes[mode].start
