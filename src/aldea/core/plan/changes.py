"""Every place at which two plans differ."""

from dataclasses import dataclass
from typing import Any

from aldea.core.base.figures import short
from aldea.core.base.memo import per_pair
from aldea.core.plan.document import Plan


@dataclass(frozen=True, slots=True, kw_only=True)
class PlanChange:
    """One place at which two plans differ: its path, what it is in words, and both values."""

    path: str
    what: str
    was: str
    now: str


UNTOLD = ("/numbers/", "/sheet/")  # they follow from the wiring, and are no choice of anybody
KINDS = {
    "places": "place", "probes": "probe", "loads": "load", "rules": "rule", "boards": "board",
    "relays": "relay", "controls": "control", "supplies": "supply", "assignments": "pin of",
    "invariants": "must never", "schedules": "schedule", "modes": "mode", "groups": "group",
    "conditions": "condition", "derived": "derived signal", "stock": "price of",
}  # fmt: skip
UNITS = {
    "s": "s", "ms": "ms", "min": "min", "h": "h", "m": "m", "cm": "cm", "v": "V", "ma": "mA",
    "a": "A", "w": "W", "ohm": "Ω", "lx": "lx", "lux": "lx", "mm2": "mm²", "pct": "%", "k": "K",
    "degc": "°C",
    "hz": "Hz", "deg": "°", "kwh": "kWh", "uf": "µF",
}  # fmt: skip
WORDS = {
    "on_threshold": "on threshold", "off_threshold": "off threshold",
    "min_on_s": "minimum on time, s", "max_on_s": "maximum on time, s",
    "min_off_s": "minimum off time, s", "want": "wants", "priority": "level", "basis": "rests on",
    "expanded_uncertainty": "uncertainty ±", "power_return": "after a power cut",
    "policy": "it", "on_sensor_fault": "a lost probe", "after_s": "after, s",
}  # fmt: skip
UNSAID = frozenset({"condition", "of", "figures", "made", "rule", "calibration"})


@per_pair
def plan_changes(was: Plan, now: Plan) -> tuple[PlanChange, ...]:
    """Every leaf at which two plans differ; parts are told apart by their ids, not their place.

    A part that came or went is one change.
    """
    names = {load.id: load.name for plan in (was, now) for load in plan.loads}
    old = _leaves(was.model_dump(mode="json"), names)
    new = _leaves(now.model_dump(mode="json"), names)
    changes: list[PlanChange] = []
    whole = ""  # the part that came or went, of whose leaves nothing more is said
    for path in sorted(old.keys() | new.keys()):
        if path.startswith(UNTOLD) or _value(old, path) == _value(new, path):
            continue
        part = "/".join(path.split("/")[:3])
        if part == whole:
            continue
        leaf = new.get(path) or old[path]
        if (f"{part}/id" in old) != (f"{part}/id" in new):
            whole = part
            gone = f"{part}/id" in old
            first, then = ("there", "gone") if gone else ("not there", "put in")
            changes.append(PlanChange(path=part, what=leaf.whose, was=first, now=then))
            continue
        first, then = (_shown(_value(leaves, path)) for leaves in (old, new))
        changes.append(PlanChange(path=path, what=leaf.what, was=first, now=then))
    return tuple(changes)


@dataclass(frozen=True, slots=True)
class _Leaf:
    value: Any
    whose: str
    text: str

    @property
    def what(self) -> str:
        """The part, and what of it."""
        return f"{self.whose}: {self.text}" if self.whose and self.text else self.whose or self.text


def _value(leaves: dict[str, "_Leaf"], path: str) -> Any:
    return leaves[path].value if path in leaves else None


def _leaves(
    value: Any, names: dict[str, str], path: str = "", whose: str = "", texts: str = ""
) -> dict[str, _Leaf]:
    """The leaves by their path; `whose` part each is of, and what of it, in words."""
    if isinstance(value, dict):
        return {
            k: v
            for key, inner in value.items()
            for k, v in _leaves(
                inner,
                names,
                f"{path}/{key}",
                whose,
                texts if key in UNSAID else f"{texts} {_label(key)}",
            ).items()
        }
    if isinstance(value, list):
        leaves: dict[str, _Leaf] = {}
        for index, item in enumerate(value):
            name = part_name(item, index)
            own, inside = whose, texts
            if isinstance(item, dict) and not whose:
                own, inside = _part_words(path.strip("/"), item, name, names), ""
            elif isinstance(item, dict):
                inside = f"{texts} {item.get('name') or name}"
            leaves |= _leaves(item, names, f"{path}/{name}", own, inside)
        return leaves
    return {path: _Leaf(value, whose, texts.strip())}


def _part_words(kind: str, item: dict[str, Any], name: str, names: dict[str, str]) -> str:
    if kind == "rules":
        return f"{names.get(item['load'], item['load'])}, {item.get('name') or item['priority']}"
    title = item.get("name") or name.replace("_", " ")
    return f"{KINDS.get(kind, kind)} {title}"


def _label(key: str) -> str:
    """A field's name as words: its unit behind it."""
    if key in WORDS:
        return WORDS[key]
    stem, _, unit = key.rpartition("_")
    if stem and unit in UNITS:
        return f"{stem.replace('_', ' ')}, {UNITS[unit]}"
    return key.replace("_", " ")


def part_name(item: Any, index: int) -> str:
    """What tells an item of a list from its neighbours: its id, its signal, or its place."""
    if isinstance(item, dict):
        return str(item.get("id") or item.get("signal") or index)
    return str(index)


def _shown(value: Any) -> str:
    if value is None or value == "":
        return "nothing"
    if isinstance(value, bool):
        return "yes" if value else "no"
    return short(value) if isinstance(value, (int, float)) else str(value)
