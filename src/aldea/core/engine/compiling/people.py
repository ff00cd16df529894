"""What people work, as tables: buttons, selectors, codes, and what each does."""

from collections.abc import Sequence
from dataclasses import dataclass, field

from aldea.core.base.errors import PlanError
from aldea.core.engine.compiling.names import Rows, RuleRow, ms
from aldea.core.engine.compiling.wants import want_code
from aldea.core.engine.layout import ENDS_BY_CODES, NONE, PRIORITY_CODES
from aldea.core.engine.tables import people as tab
from aldea.core.engine.tables.memory import NO_END
from aldea.core.plan.controls import Control, ControlAction, LoadGroup
from aldea.core.plan.document import Load, Plan

WALL_AUTHOR = "wall"
OUTSIDE_AUTHOR = "outside"
PRESSES = ("short", "long", "double")
BUTTONS = ("push_button", "touch_pad")
STEPS = {"up": 1, "down": -1}


@dataclass(slots=True)
class ActionTable:
    """What presses, codes, positions and pages do."""

    plan: Plan
    loads: Rows
    modes: Rows
    rules: Sequence[RuleRow]
    rows: list[tab.ActionSpec] = field(default_factory=list)

    def add(self, wants: Sequence[ControlAction], until_ms: int | None = None) -> tuple[int, int]:
        """First row and end of what is done together; a load that is only planned is left out."""
        first = len(self.rows)
        for want in wants:
            self._want(want, NO_END if until_ms is None else until_ms)
        return first, len(self.rows)

    def _want(self, want: ControlAction, until_ms: int) -> None:
        ends: dict[str, int] = {}
        if want.only is None:
            self._does(want, until_ms, ends)
            return
        mode, value = self._mode(want.only.mode, want.only.value)
        if want.ends_with_mode:
            ends = {"mode": mode, "value": value}
        self._row(tab.ACT_ONLY, mode, want=value)
        first = len(self.rows)
        self._does(want, until_ms, ends)
        self.rows[first - 1].by = len(self.rows) - first

    def _does(self, want: ControlAction, until_ms: int, ends: dict[str, int]) -> None:
        if want.does == "mode":
            mode, value = self._mode(want.mode or "", want.value)
            self._row(tab.ACT_MODE, mode, want=value)
            return
        group = NONE
        if want.group:
            group = [one.id for one in self.plan.groups].index(self._group(want.group).id)
            if want.does not in ("automatic", "reset"):
                self._row(tab.ACT_GROUP, group)
        for load, delay_ms in self._targets(want):
            row = self.loads.find(load.id)
            ends_by = NONE if want.ends_by is None else ENDS_BY_CODES[want.ends_by]
            how = {
                "ends_by": ends_by,
                "for_ms": NONE if want.for_s is None else ms(want.for_s),
                "until_ms": until_ms,
                "delay_ms": delay_ms,
                "group": group,
                **ends,
            }
            if want.does == "toggle":
                self._row(tab.ACT_TOGGLE, row, **how)
            elif want.does == "automatic":
                self._row(tab.ACT_AUTOMATIC, row)
            elif want.does == "reset":
                self._row(tab.ACT_RESET, row, want=self._trip(load.id, want.trip))
            elif want.does in STEPS:
                self._row(tab.ACT_STEP, row, by=STEPS[want.does] * want.by, **how)
            else:
                code = want_code(load, want.does, level=want.step)
                self._row(tab.ACT_OVERRIDE, row, want=code, **how)

    def _targets(self, want: ControlAction) -> list[tuple[Load, int]]:
        group = self._group(want.group) if want.group else None
        names = group.members if group else (want.load,) if want.load else ()
        targets: list[tuple[Load, int]] = []
        for name in names:
            load = self.plan.load(name)
            if load is None:
                self.loads.find(name)
            elif load.stage == "working":
                delay_s = group.stagger_s * len(targets) if group else 0.0
                targets.append((load, ms(delay_s)))
        return targets

    def _group(self, group_id: str) -> LoadGroup:
        entry: LoadGroup | None = self.plan.group(group_id)
        if entry is None:
            raise PlanError(f"group {group_id}", got="none of that id", allowed="a group's id")
        return entry

    def _trip(self, load: str, trip: str | None) -> int:
        if trip is None:
            return tab.ALL_TRIPS
        for row, name in enumerate(self.rules):
            if name.load == load and name.priority == PRIORITY_CODES["trip"] and name.rule == trip:
                return row
        raise PlanError(f"load {load}", got=f"trip {trip}", allowed="the id of a trip on it")

    def _mode(self, mode_id: str, value: str | None) -> tuple[int, int]:
        mode = next((mode for mode in self.plan.modes if mode.id == mode_id), None)
        row = self.modes.find(mode_id)
        if mode is None or value is None:
            return row, tab.NEXT_VALUE
        if value not in mode.values:
            raise PlanError(
                f"mode {mode_id}", got=repr(value), allowed="one of " + ", ".join(mode.values)
            )
        return row, mode.values.index(value)

    def _row(self, kind: int, who: int, **how: int) -> None:
        usual = {
            "ends_by": NONE,
            "for_ms": NONE,
            "until_ms": NO_END,
            "mode": NONE,
            "value": NONE,
            "group": NONE,
        }
        self.rows.append(tab.ActionSpec(kind=kind, who=who, **{**usual, **how}))


@dataclass(slots=True)
class ControlTable:
    """Controls as they are asked for by the scan."""

    plan: Plan
    actions: ActionTable
    inputs: Rows
    authors: Rows
    codes: Rows
    buttons: list[tab.ButtonSpec] = field(default_factory=list)
    selectors: list[tab.SelectorSpec] = field(default_factory=list)
    positions: list[tab.PositionSpec] = field(default_factory=list)
    code_rows: list[tab.CodeSpec] = field(default_factory=list)

    def add(self, control: Control) -> None:
        """One control; a lamp, or a switch inside a load's own circuit, is none."""
        load = self.plan.load(control.load) if control.load else None
        in_circuit = load is not None and load.kind == "two_way"
        if control.kind == "lamp" or (in_circuit and control.kind == "wall_switch"):
            return
        author = self.authors.give(control.id)
        if control.kind == "remote":
            for code in control.codes:
                first, end = self.actions.add([code, *code.also])
                self.codes.give(f"{control.id}:{code.name}")
                self.code_rows.append(
                    tab.CodeSpec(
                        lockout_ms=round(control.lockout_ms), first=first, end=end, author=author
                    )
                )
            return
        source = self.inputs.give(f"control:{control.id}")
        if control.kind in BUTTONS:
            self._button(control, source, author)
        else:
            self._selector(control, source, author)

    def _button(self, control: Control, source: int, author: int) -> None:
        presses = {
            press: [want for want in control.presses if want.press == press] for press in PRESSES
        }
        if not control.presses and control.load:
            presses["short"] = [ControlAction(load=control.load)]  # type: ignore[list-item]
        short, long, double = (self.actions.add(presses[press]) for press in PRESSES)
        self.buttons.append(
            tab.ButtonSpec(
                input=source,
                author=author,
                long_ms=round(control.long_ms),
                double_ms=round(control.double_ms),
                lockout_ms=round(control.lockout_ms),
                short_first=short[0],
                short_end=short[1],
                long_first=long[0],
                long_end=long[1],
                double_first=double[0],
                double_end=double[1],
            )
        )

    def _selector(self, control: Control, source: int, author: int) -> None:
        first = len(self.positions)
        says_at_boot = control.meaning == "position" and control.at_boot == "as_it_stands"
        if control.kind == "selector":
            for position in control.positions:
                wants = [position, *position.also] if position.does is not None else []
                self._position(int(position.pattern, 2), wants)
        elif control.load and control.meaning == "toggle":
            self._position(tab.ANY_PATTERN, [ControlAction(load=control.load)])
            says_at_boot = False
        elif control.load:
            opposite = "off" if control.closed_means == "on" else "on"
            for pattern, does in ((1, control.closed_means), (0, opposite)):
                want = ControlAction(load=control.load, does=does)  # type: ignore[arg-type]
                self._position(pattern, [want])
        at_once = control.after_other == "at_once" and control.meaning == "position"
        load = self.plan.load(control.load) if control.load else None
        working = load is not None and load.stage == "working"
        settle_ms = control.debounce_ms if control.settle_ms is None else control.settle_ms
        self.selectors.append(
            tab.SelectorSpec(
                input=source,
                settle_ms=round(settle_ms),
                first=first,
                end=len(self.positions),
                author=author,
                at_boot=int(says_at_boot),
                load=self.actions.loads.find(load.id)
                if at_once and working and load is not None
                else NONE,
            )
        )

    def _position(self, pattern: int, wants: Sequence[ControlAction]) -> None:
        first, end = self.actions.add(wants)
        self.positions.append(tab.PositionSpec(pattern=pattern, first=first, end=end))
