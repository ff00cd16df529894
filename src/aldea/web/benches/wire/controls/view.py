"""The controls as they are drawn: by place, with what each key, position and press does."""

from collections.abc import Iterator
from dataclasses import dataclass
from urllib.parse import urlencode

from aldea.core.base.figures import short
from aldea.core.plan.controls import Control, ControlAction
from aldea.core.plan.document import Plan
from aldea.core.wiring.controls import OutOfReach, out_of_reach
from aldea.core.words.controls import NO_ACTION, action_words, control_words, end_words
from aldea.core.words.rules import over_an_override
from aldea.web.benches.wire.controls.wants import KEYS, PRESSES

PRESS_NAMES = {"short": "short press", "long": "long press", "double": "double press"}
MOST_DRAWN = 12  # keys of one remote; the table below has them all
FIELDS = {
    "remote": "codes",
    "selector": "positions",
    **dict.fromkeys(("push_button", "touch_pad", "wall_switch"), "presses"),
}


@dataclass(frozen=True, slots=True, kw_only=True)
class Row:
    """One key, position or press: its name, how it is recognised, what it does."""

    field: str
    key: str
    name: str
    detail: str
    requests: tuple[ControlAction, ...]
    lines: tuple[str, ...]
    url: str
    chosen: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class Card:
    """One control as it is drawn; `add_url` is empty where nothing can be added to it."""

    control: Control
    rows: tuple[Row, ...]
    more: int
    words: str
    beyond: tuple[OutOfReach, ...]
    add_url: str
    add_words: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Editor:
    """What is edited beside the drawing: one row, or what is to be added to a control."""

    control: Control
    field: str
    row: Row | None
    numbered: tuple[tuple[int, ControlAction, str], ...]
    stronger: tuple[str, ...]
    free_presses: tuple[str, ...]


def field_of(control: Control) -> str:
    """The list of its actions that a control has: codes, positions, presses, or none."""
    return FIELDS.get(control.kind, "")


def address(here: str, control: Control, field: str = "", key: str = "") -> str:
    """The address of the page with a row of a control, or the control itself, in the editor."""
    query = {"control": control.id} | ({"field": field, "key": key} if key else {})
    return f"{here}?{urlencode(query)}"


def rows_of(plan: Plan, control: Control, here: str, chosen: tuple[str, str, str]) -> list[Row]:
    """Every key, position or press of a control, in the order of the plan."""
    field = field_of(control)

    def row(key: str, name: str, detail: str, requests: tuple[ControlAction, ...]) -> Row:
        return Row(
            field=field, key=key, name=name, detail=detail, requests=requests,
            lines=tuple(_lines(plan, requests)), url=address(here, control, field, key),
            chosen=chosen == (control.id, field, key),
        )  # fmt: skip

    if field == "codes":
        return [row(c.code, c.name, f"code {c.code}", (c, *c.also)) for c in control.codes]
    if field == "positions":
        return [
            row(p.pattern, p.name, p.pattern, (p, *p.also) if p.does is not None else p.also)
            for p in control.positions
        ]
    rows = []
    for press in PRESSES:
        requests = tuple(p for p in control.presses if p.press == press)
        times = {"short": "", "long": f"{short(control.long_ms / 1000)} s",
                 "double": f"within {short(control.double_ms / 1000)} s"}  # fmt: skip
        if requests:
            rows.append(row(press, PRESS_NAMES[press], times[press], requests))
    return rows


def _lines(plan: Plan, requests: tuple[ControlAction, ...]) -> Iterator[str]:
    """What the requests do, in order, then how their overrides end, each way once."""
    if not requests:
        yield NO_ACTION
    yield from (action_words(plan, want) for want in requests)
    ends = [end_words(plan, want) for want in requests]
    yield from dict.fromkeys(end for end in ends if end)


def cards_by_place(
    plan: Plan, here: str, chosen: tuple[str, str, str]
) -> list[tuple[str, list[Card]]]:
    """The controls of each place that has any, in the order of the plan."""
    cards: dict[str, list[Card]] = {}
    names = {place.id: place.name for place in plan.places}
    for control in plan.controls:
        rows = rows_of(plan, control, here, chosen)
        field = field_of(control)
        shown = rows[:MOST_DRAWN]
        shown += [row for row in rows[MOST_DRAWN:] if row.chosen]
        card = Card(
            control=control,
            rows=tuple(shown),
            more=len(rows) - len(shown),
            words="" if rows else control_words(plan, control),
            beyond=out_of_reach(plan, control),
            add_url=address(here, control)
            if field and (field != "presses" or _free_presses(control))
            else "",
            add_words={"codes": "Add a key", "positions": "Add a position"}.get(
                field, "Add a press"
            ),
        )
        cards.setdefault(names.get(control.place, "Elsewhere"), []).append(card)
    return list(cards.items())


def editor_of(plan: Plan, here: str, chosen: tuple[str, str, str]) -> Editor | None:
    """What the editor shows for a control and, where one is chosen, its row; None without one."""
    control = plan.control(chosen[0])
    if control is None or not (field := field_of(control)):
        return None
    rows = rows_of(plan, control, here, chosen)
    row = next((row for row in rows if row.chosen), None)
    requests = row.requests if row else ()
    numbered = tuple((n, want, action_words(plan, want)) for n, want in enumerate(requests))
    return Editor(
        control=control,
        field=field,
        row=row,
        numbered=numbered,
        stronger=_stronger(plan, requests),
        free_presses=_free_presses(control),
    )


def _free_presses(control: Control) -> tuple[str, ...]:
    """The presses that do nothing yet: adding one never replaces what another one does."""
    used = {press.press for press in control.presses}
    return tuple(press for press in PRESSES if press not in used)


def _stronger(plan: Plan, requests: tuple[ControlAction, ...]) -> tuple[str, ...]:
    """The rules that such an override cannot overrule, of each load that is named."""
    loads = [load for load in plan.loads if any(want.load == load.id for want in requests)]
    return tuple(
        f"{load.name}: {sentence}" for load in loads for sentence in over_an_override(plan, load)
    )


def chosen_of(typed: dict[str, str]) -> tuple[str, str, str]:
    """The control, the list and the key that an address or a form names."""
    control, field = typed.get("control", ""), typed.get("field", "")
    key = typed.get("key", "")
    if not key and field in ("", "presses") and typed.get("press") in PRESSES:
        field, key = "presses", typed["press"]
    return control, field if field in KEYS else "", key


def place_of(typed: dict[str, str]) -> str:
    """Where to go after a change: to the row that was changed or learnt, else to its control."""
    control, field, key = chosen_of(typed)
    if "codes" not in typed and (code := typed.get("code", "").strip().lower()):
        field, key = "codes", code.removeprefix("0x")
    elif pattern := typed.get("pattern", "").strip():
        field, key = "positions", pattern
    if not control:
        return "controls"
    query = {"control": control} | ({"field": field, "key": key} if key else {})
    return f"controls?{urlencode(query)}"
