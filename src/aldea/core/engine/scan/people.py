"""Pages, codes, selectors and buttons: what comes in is heard at its own instant, each once."""

from aldea.core.engine.layout import NEVER, NONE
from aldea.core.engine.scan.actions import act, leave_position, waiting_commands
from aldea.core.engine.scan.doorways import cross_doorways
from aldea.core.engine.scan.inputs import begin_span, end_span, is_high, next_edge, take_edges
from aldea.core.engine.tables.people import (
    ANY_PATTERN,
    DONE,
    IDLE,
    PRESSED,
    RELEASED,
    UNREAD,
)
from aldea.core.engine.tables.run import RunTables


def hear_people(run: RunTables, t_ms: int) -> None:
    """All that people did since the scan before, in order of its instants.

    At one instant: the turns of groups, pages and codes, selectors, buttons, each in the order in
    which they came or stand in the plan.
    """
    begin_span(run)
    hold_positions(run, t_ms)
    at_ms = next_of_people(run)
    while at_ms <= t_ms:
        take_edges(run, at_ms)
        waiting_commands(run, t_ms, at_ms)
        hear_messages(run, t_ms, at_ms)
        turn_selectors(run, t_ms, at_ms)
        press_buttons(run, t_ms, at_ms)
        cross_doorways(run, at_ms)
        at_ms = next_of_people(run)
    end_span(run)


def hear_messages(run: RunTables, t_ms: int, at_ms: int) -> None:
    """Pages and codes of an instant."""
    at = run.now.cursor
    while at.message < len(run.inputs.messages) and run.inputs.messages[at.message].t_ms <= at_ms:
        message = run.inputs.messages[at.message]
        if message.code >= 0:
            hear_code(run, t_ms, message.code, message.t_ms)
        else:
            act(run, t_ms, message.first, message.end, message.author)
        at.message += 1


def hear_code(run: RunTables, t_ms: int, code: int, at_ms: int) -> None:
    """A remote's code; one that came again too soon is taken for the same press."""
    spec = run.plan.codes[code]
    last_ms = run.now.code_ms[code]
    run.now.code_ms[code] = at_ms
    if at_ms - last_ms >= spec.lockout_ms:
        act(run, t_ms, spec.first, spec.end, spec.author)


def speak(run: RunTables, s: int, t_ms: int) -> None:
    """The position at which a selector stands does what it does."""
    spec, level = run.plan.selectors[s], run.now.inputs[run.plan.selectors[s].input].level
    for p in range(spec.first, spec.end):
        position = run.plan.positions[p]
        if position.pattern == level or position.pattern == ANY_PATTERN:
            act(run, t_ms, position.first, position.end, spec.author)


def hold_positions(run: RunTables, t_ms: int) -> None:
    """Where a position holds again at once: it takes back what another has taken since."""
    for s in range(len(run.plan.selectors)):
        spec, now = run.plan.selectors[s], run.now.selectors[s]
        if spec.load == NONE or now.waits == 1:
            continue
        held = run.now.loads[spec.load]
        if held.override == NONE or held.override_author != spec.author:
            speak(run, s, t_ms)


def turn_selectors(run: RunTables, t_ms: int, at_ms: int) -> None:
    """A position that has stood for its time and is not the one that acted last."""
    for s in range(len(run.plan.selectors)):
        spec, now = run.plan.selectors[s], run.now.selectors[s]
        if run.now.inputs[spec.input].moved == 1:
            now.since_ms = at_ms
            now.waits = 1
        if now.waits == 1 and at_ms - now.since_ms >= spec.settle_ms:
            now.waits = 0
            level = run.now.inputs[spec.input].level
            if level != now.spoken:
                now.spoken = level
                leave_position(run, spec.author)
                speak(run, s, t_ms)


def short_press(run: RunTables, b: int, t_ms: int, at_ms: int, state: int) -> None:
    """A short press is done; the button is left in a state."""
    spec, now = run.plan.buttons[b], run.now.buttons[b]
    now.state = state
    now.fired_ms = at_ms
    act(run, t_ms, spec.short_first, spec.short_end, spec.author)


def press_due(run: RunTables, b: int, t_ms: int, at_ms: int) -> None:
    """What falls due while nothing moves: a short press that stayed alone, a long one."""
    spec, now = run.plan.buttons[b], run.now.buttons[b]
    if now.state == RELEASED and at_ms - now.release_ms >= spec.double_ms:
        short_press(run, b, t_ms, at_ms, IDLE)
    has_long = spec.long_first < spec.long_end
    if now.state == PRESSED and has_long and at_ms - now.press_ms >= spec.long_ms:
        now.state = DONE
        now.fired_ms = at_ms
        act(run, t_ms, spec.long_first, spec.long_end, spec.author)


def button_down(run: RunTables, b: int, t_ms: int, at_ms: int) -> None:
    """A button goes down."""
    spec, now = run.plan.buttons[b], run.now.buttons[b]
    has_long = spec.long_first < spec.long_end
    has_double = spec.double_first < spec.double_end
    if now.state == RELEASED:
        now.state = DONE
        now.fired_ms = at_ms
        act(run, t_ms, spec.double_first, spec.double_end, spec.author)
    elif at_ms - now.fired_ms < spec.lockout_ms:
        now.state = DONE  # the whole press is ignored
    elif not has_long and not has_double:
        short_press(run, b, t_ms, at_ms, DONE)
    else:
        now.state = PRESSED
        now.press_ms = at_ms


def button_up(run: RunTables, b: int, t_ms: int, at_ms: int) -> None:
    """A button is released."""
    spec, now = run.plan.buttons[b], run.now.buttons[b]
    if now.state != PRESSED:
        now.state = IDLE
    elif spec.double_first < spec.double_end:
        now.state = RELEASED
        now.release_ms = at_ms
    else:
        short_press(run, b, t_ms, at_ms, IDLE)


def press_buttons(run: RunTables, t_ms: int, at_ms: int) -> None:
    """First the times of long and double presses, then the edges."""
    for b in range(len(run.plan.buttons)):
        press_due(run, b, t_ms, at_ms)
        source = run.plan.buttons[b].input
        if run.now.inputs[source].moved == 0:
            continue
        if is_high(run, source):
            button_down(run, b, t_ms, at_ms)
        else:
            button_up(run, b, t_ms, at_ms)


def next_of_people(run: RunTables) -> int:
    """The first instant at which something that people did is heard."""
    at, first = run.now.cursor, next_edge(run)
    if at.message < len(run.inputs.messages):
        first = min(first, run.inputs.messages[at.message].t_ms)
    for b in range(len(run.plan.buttons)):
        button, pressed = run.plan.buttons[b], run.now.buttons[b]
        if pressed.state == RELEASED:
            first = min(first, pressed.release_ms + button.double_ms)
        if pressed.state == PRESSED and button.long_first < button.long_end:
            first = min(first, pressed.press_ms + button.long_ms)
    for s in range(len(run.plan.selectors)):
        if run.now.selectors[s].waits == 1:
            settle_ms = run.plan.selectors[s].settle_ms
            first = min(first, run.now.selectors[s].since_ms + settle_ms)
    for load in range(len(run.plan.loads)):
        first = min(first, run.now.loads[load].wait_ms)
    return first


def next_of_controls(run: RunTables, t_ms: int) -> int:
    """The first instant after `t_ms` at which a control acts, or a position holds again."""
    first = next_of_people(run)
    for s in range(len(run.plan.selectors)):
        load = run.plan.selectors[s].load
        if load != NONE and run.now.loads[load].override == NONE:
            first = min(first, t_ms + 1)
    return first


def boot_controls(run: RunTables, t_ms: int) -> None:
    """After a boot nothing is known of what was pressed before.

    The position that a selector is found at counts from the boot; where it is to say nothing then,
    it is as if it had acted.
    """
    for b in range(len(run.plan.buttons)):
        button = run.now.buttons[b]
        button.state = IDLE
        button.press_ms = NEVER
        button.release_ms = NEVER
        button.fired_ms = NEVER
    for s in range(len(run.plan.selectors)):
        spec, selector = run.plan.selectors[s], run.now.selectors[s]
        selector.since_ms = t_ms
        selector.spoken = UNREAD if spec.at_boot == 1 else run.now.inputs[spec.input].level
        selector.waits = spec.at_boot
    for code in range(len(run.plan.codes)):
        run.now.code_ms[code] = NEVER
    for mode in range(len(run.plan.modes)):
        run.now.modes[mode] = run.plan.modes[mode].start
