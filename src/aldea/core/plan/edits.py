"""Laying out: parts put in, moved, taken away with what hangs on them; each gives a new plan."""

import re
import unicodedata
from collections.abc import Iterable
from typing import Any, Literal

from aldea.core.base.errors import InputError, NotFoundError
from aldea.core.devices.loads.models import LOAD_FACTS
from aldea.core.plan.controls import Control
from aldea.core.plan.document import Load, Plan, Probe
from aldea.core.plan.reading import in_words, readers_of, stand_on_load

COLLECTIONS = {
    "place": "places",
    "probe": "probes",
    "load": "loads",
    "control": "controls",
    "group": "groups",
    "supply": "supplies",
    "board": "boards",
    "board_type": "board_types",
    "relay": "relays",
    "invariant": "invariants",
}
STANDING = ("probe", "load", "control", "supply", "board")


def part_of(plan: Plan, kind: str, part_id: str) -> Any:
    """The part of a kind with that id; `NotFoundError` where there is none."""
    parts = getattr(plan, COLLECTIONS[kind]) if kind in COLLECTIONS else ()
    for part in parts:
        if part.id == part_id:
            return part
    raise NotFoundError(kind.replace("_", " "), got=repr(part_id), allowed="a part of this plan")


def put_part(plan: Plan, kind: str, part: Any) -> Plan:
    """The plan with a part put in the place of the one with its id, or at the end."""
    key = COLLECTIONS[kind]
    parts = getattr(plan, key)
    if any(old.id == part.id for old in parts):
        after = tuple(part if old.id == part.id else old for old in parts)
    else:
        after = (*parts, part)
    return plan.model_copy(update={key: after})


def fresh_id(name: str, taken: Iterable[str]) -> str:
    """An id made from a name: `Würde´s lamp 2` → `wurde_s_lamp_2`, with a number where taken."""
    plain = unicodedata.normalize("NFKD", name).encode("ascii", "ignore").decode().lower()
    base = re.sub(r"[^a-z0-9]+", "_", plain).strip("_")[:40] or "part"
    if not base[0].isalpha():
        base = f"n{base}"
    known = set(taken)
    candidate, number = base, 2
    while candidate in known:
        candidate, number = f"{base}_{number}", number + 1
    return candidate


def ids_of(plan: Plan, kind: str) -> set[str]:
    """Every id of a kind."""
    return {part.id for part in getattr(plan, COLLECTIONS[kind])}


def move_part(plan: Plan, kind: str, part_id: str, place_id: str) -> Plan:
    """The plan with a thing standing in another place."""
    if kind not in STANDING:
        raise InputError("part", got=kind, allowed="a thing that stands in a place")
    part_of(plan, "place", place_id)
    part = part_of(plan, kind, part_id)
    if kind != "probe":
        return put_part(plan, kind, part.model_copy(update={"place": place_id}))
    lead = part.part_with or part_id
    for probe in plan.probes:  # one part stands in one place
        if lead in (probe.id, probe.part_with):
            plan = put_part(plan, kind, probe.model_copy(update={"place": place_id}))
    return plan


def things_in(plan: Plan, place_id: str) -> list[str]:
    """Names of all that stands in a place, and of the places inside it."""
    names = [
        part.name
        for kind in STANDING
        for part in getattr(plan, COLLECTIONS[kind])
        if part.place == place_id
    ]
    names += [relay.id.upper() for relay in plan.relays if relay.place == place_id]
    return names + [place.name for place in plan.places if place.within == place_id]


def remove_part(plan: Plan, kind: str, part_id: str) -> Plan:
    """The plan without a part and without what only hung on it.

    Raises `InputError` where something would be left without what it needs: a place that is not
    empty, a probe that a rule reads, a board that others hang on, a type that a board is of.
    """
    if kind == "probe":
        plan = _handed_over(plan, part_id)
    part = part_of(plan, kind, part_id)
    key = COLLECTIONS[kind]
    left = tuple(p for p in getattr(plan, key) if p.id != part_id)
    changed: dict[str, Any] = {key: left}
    owners = {f"{kind}:{part_id}."}
    if kind == "place":
        _refuse_if(part.name, things_in(plan, part_id), "Move these first")
    elif kind == "probe":
        readers = readers_of(plan, part_id)
        _refuse_if(part.name, in_words(plan, readers), "Change or remove these first")
        changed["invariants"] = tuple(i for i in plan.invariants if part_id not in i.probes)
        changed["loads"] = tuple(_without_probe(load, part_id) for load in plan.loads)
    elif kind == "load":
        gone = plan.relays_of(part_id)
        owners |= {f"relay:{relay.id}." for relay in gone}
        changed["relays"] = tuple(r for r in plan.relays if r.load != part_id)
        others = [name for name in stand_on_load(plan, part_id) if name != part_id]
        _refuse_if(part.name, in_words(plan, others), "Change these first")
        changed["rules"] = tuple(c for c in plan.rules if c.load != part_id)
        changed["invariants"] = tuple(i for i in plan.invariants if part_id not in i.loads)
        changed["controls"] = tuple(_without(c, "load", part_id) for c in plan.controls)
        changed["groups"] = tuple(
            g.model_copy(update={"members": tuple(m for m in g.members if m != part_id)})
            for g in plan.groups
        )
    elif kind == "group":
        changed["controls"] = tuple(_without(c, "group", part_id) for c in plan.controls)
    elif kind == "board":
        hung = [b.name for b in plan.boards if b.host == part_id]
        _refuse_if(part.name, hung, "Remove these first")
        changed["assignments"] = tuple(a for a in plan.assignments if a.board != part_id)
        changed["probes"] = _not_fed_by(plan, part_id)
    elif kind == "supply":
        changed["boards"] = tuple(
            b.model_copy(update={"supply": None}) if b.supply == part_id else b for b in plan.boards
        )
        changed["probes"] = _not_fed_by(plan, part_id)
        changed["relays"] = tuple(
            r.model_copy(update={"coil_fed_by": None}) if r.coil_fed_by == part_id else r
            for r in plan.relays
        )
        changed["loads"] = tuple(
            one.model_copy(update={"supply": None}) if one.supply == part_id else one
            for one in plan.loads
        )
    elif kind == "board_type":
        used = [b.name for b in plan.boards if b.board_type == part_id]
        _refuse_if(part.name, used, "Remove these first")
    without = {owner.removesuffix(".") for owner in owners}
    changed["copies"] = tuple(c for c in plan.copies if not without & {c.id, c.of})
    rows = changed.get("assignments", plan.assignments)
    changed["assignments"] = tuple(
        a for a in rows if not any(a.signal.startswith(owner) for owner in owners)
    )
    return plan.model_copy(update=changed)


def _handed_over(plan: Plan, probe_id: str) -> Plan:
    """A part of several quantities stays, with its pins, when the probe that carries it goes."""
    old = part_of(plan, "probe", probe_id)
    heirs = [probe for probe in plan.probes if probe.part_with == probe_id]
    if not heirs:
        return plan
    lead = heirs[0]
    carried = {key: getattr(old, key) for key in ("sensor", "cable_m", "cable_mm2")}
    plan = put_part(plan, "probe", lead.model_copy(update={**carried, "part_with": None}))
    for other in heirs[1:]:
        plan = put_part(plan, "probe", other.model_copy(update={"part_with": lead.id}))
    before, after = f"probe:{probe_id}.", f"probe:{lead.id}."
    rows = tuple(
        row.model_copy(update={"signal": after + row.signal.removeprefix(before)})
        if row.signal.startswith(before)
        else row
        for row in plan.assignments
    )
    return plan.model_copy(update={"assignments": rows})


def _not_fed_by(plan: Plan, part_id: str) -> tuple[Probe, ...]:
    """The probes, without a supply or a board that is gone."""
    return tuple(
        p.model_copy(update={"fed_by": None}) if p.fed_by == part_id else p for p in plan.probes
    )


def _refuse_if(name: str, others: list[str], fix: str) -> None:
    if others:
        need = "1 part needs it" if len(others) == 1 else f"{len(others)} parts need it"
        listed = f"{', '.join(others[:6])}{' …' if len(others) > 6 else ''}"
        raise InputError("part", text=f"{name} cannot be removed: {need}. {fix}: {listed}.")


def _without_probe(load: Load, probe_id: str) -> Load:
    facts, figures = LOAD_FACTS[load.kind], load.figures
    gone = {key: None for key in facts.probe_fields if getattr(figures, key, None) == probe_id}
    if not gone or figures is None:
        return load
    return load.model_copy(update={facts.figures: figures.model_copy(update=gone)})


def _without(control: Control, key: Literal["load", "group"], part_id: str) -> Control:
    """A control that wants nothing of a load or a group that is gone."""

    def freed(want: Any) -> Any:
        gone: dict[str, Any] = {key: None} if getattr(want, key) == part_id else {}
        if "also" in type(want).model_fields:
            gone["also"] = tuple(freed(one) for one in want.also)
        return want.model_copy(update=gone)

    update: dict[str, Any] = {
        field: tuple(freed(want) for want in getattr(control, field))
        for field in ("presses", "positions", "codes")
    }
    if key == "load" and control.load == part_id:
        update["load"] = None
    return control.model_copy(update=update)


def as_copy(plan: Plan, house: Any) -> Plan:
    """A plan under another house's facts; what was certified there is only stated here.

    Where the other house does not say where on the earth it stands, the sun is that of this plan.
    """
    if house.latitude_deg is None or house.longitude_deg is None:
        here = {key: getattr(plan.house, key) for key in ("latitude_deg", "longitude_deg")}
        house = house.model_copy(update=here)
    probes = tuple(
        probe.model_copy(
            update={
                "calibration": probe.calibration.model_copy(
                    update={"basis": "entered", "certificate": None, "carried_from": None}
                )
            }
        )
        for probe in plan.probes
    )
    return plan.model_copy(update={"house": house, "probes": probes})
