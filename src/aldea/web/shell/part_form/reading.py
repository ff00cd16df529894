"""Reading a part's form: from what was typed to the part, with every refusal at its field."""

import math
import re
from collections.abc import Mapping
from typing import Any

from pydantic import TypeAdapter, ValidationError

from aldea.core.base.errors import PlanError
from aldea.core.base.figures import short
from aldea.core.base.numbers import whole_of
from aldea.core.base.parts import Name, Part
from aldea.core.base.unfit import unfit
from aldea.core.devices.asked import kinds_of
from aldea.core.devices.loads.classes import LoadClass, usual_return
from aldea.core.devices.loads.models import LOAD_FACTS, figures_for
from aldea.core.devices.sensors.models import SENSOR_FACTS, SEVERAL
from aldea.core.devices.sensors.registry import sensor_device
from aldea.core.plan.board_types import board_types
from aldea.core.plan.check import plan_problems
from aldea.core.plan.controls import Control
from aldea.core.plan.defaults import PLACES, new_load, new_place, new_probe, usual_nature
from aldea.core.plan.document import Averaging, Jump, Load, Plan, Probe, Smoothing, Stuck
from aldea.core.plan.edits import fresh_id, ids_of, put_part
from aldea.core.plan.panel import Board, Cable, RelayOutput, Supply, TransistorSwitch
from aldea.core.wiring.retype import with_board
from aldea.web.shell.form_fields import Field, Group
from aldea.web.shell.forms import Fields
from aldea.web.shell.part_form.devices import PART_OF
from aldea.web.shell.part_form.parts import groups_of

NAME: TypeAdapter[str] = TypeAdapter(Name)
AT_MAINS = {"volts": None, "runs_on": "ac", "supply": None}
FIRST_ADDRESS, LAST_ADDRESS = 0x44, 0x78  # where sensors of usual houses answer


def _is_name(text: str) -> bool:
    try:
        NAME.validate_python(text)
    except ValidationError:
        return False
    return True


def new_part(plan: Plan, kind: str, sent: Mapping[str, str]) -> Any:
    """A part with the defaults of its kind, for a form that is not kept yet."""
    typed = str(sent.get("name", "")).strip()
    # What cannot be a name is refused at its field when the form is read; until then it has none.
    name = typed if _is_name(typed) else f"New {kind}"
    part_id = fresh_id(name, ids_of(plan, kind))
    places = [place.id for place in plan.places]
    chosen = str(sent.get("place", ""))
    place = chosen if chosen in places else next(iter(places), "none")
    if kind == "place":
        wanted_kind = str(sent.get("kind", "room"))
        place_kind = wanted_kind if wanted_kind in PLACES else "room"
        level = str(sent.get("level", "0")).replace("−", "-")
        return new_place(
            plan.places,
            id=part_id,
            name=name,
            kind=place_kind,
            level=int(level) if re.fullmatch(r"-?\d{1,2}", level) else 0,
        )
    if kind == "probe":
        return new_probe(probe_id=part_id, name=name, place=place, quantity="air_temperature")
    if kind == "load":
        return new_load(load_id=part_id, name=name, place=place, kind="relay")
    if kind == "control":
        return Control(id=part_id, name=name, place=place, kind="push_button")
    if kind == "supply":
        return Supply(id=part_id, name=name, place=place)
    return Board(
        id=part_id,
        name=name,
        place=place,
        board_type="wifi_38",
        supply=plan.supplies[0].id if plan.supplies else None,
    )


def read_part(fields: Fields, plan: Plan, kind: str, part: Any) -> Any:
    """The part as typed; `InputError` (from `fields.check`) with every wrong field named."""
    update: dict[str, Any] = {}
    for group in groups_of(plan, kind, part):
        owner = getattr(part, group.inside) if group.inside else part
        typed = {
            f.name: _value(fields, f, type(owner)) for f in group.fields if f.name in fields.sent
        }
        if group.inside:
            update[group.inside] = (owner, typed)
        else:
            update.update(typed)
    fields.check()
    for key, value in list(update.items()):
        if isinstance(value, tuple) and len(value) == 2 and hasattr(value[0], "model_copy"):
            update[key] = _inner(fields, value[0], value[1])
    update = _consequences(fields, plan, kind, part, update)
    built = _checked(fields, type(part), {**dict(part), **update})
    fields.check()
    if kind != "house":
        whole = with_board(plan, built)[0] if kind == "board" else put_part(plan, kind, built)
        for problem in plan_problems(whole):
            fields.refuse_error(_field_of(problem, fields), problem)
        fields.check()
    return built


def _value(fields: Fields, field: Field, model: type[Part]) -> Any:
    if field.kind == "number":
        return _figure(fields, field)
    if field.kind == "choice":
        chosen = fields.choice(field.name, tuple(option for option, _ in field.options))
        return _chosen(chosen, field.name, model)
    value = fields.text(field.name)
    if field.read is None:
        return value
    try:
        return field.read(value)
    except ValueError:
        fields.refuse(field.name, repr(value), field.example)
        return None


def _figure(fields: Fields, field: Field) -> float | None:
    if field.optional and not str(fields.sent.get(field.name, "")).strip():
        return None
    figure = fields.number(field.name, low=field.low, high=field.high, unit=field.unit)
    if not field.whole or not math.isfinite(figure):
        return figure
    if figure != int(figure):
        fields.refuse(field.name, f"{short(figure)}", "a whole number")
    return int(figure)


def _chosen(value: str, name: str, model: type[Part]) -> Any:
    """A choice as its model holds it: yes or no, a whole number, nothing where it may be empty."""
    if name not in model.model_fields:
        return value
    kinds = kinds_of(model, name)
    if bool in kinds:
        return value == "yes"
    if not value and type(None) in kinds:
        return None
    whole = whole_of(value) if int in kinds else None
    return value if whole is None else whole


def _inner(fields: Fields, inner: Any, typed: dict[str, Any]) -> Any:
    return _checked(fields, type(inner), {**inner.model_dump(), **typed})


def _checked(fields: Fields, model: Any, values: dict[str, Any]) -> Any:
    try:
        return model.model_validate(values, strict=False)
    except ValidationError as exc:
        for problem in unfit(exc.errors(include_url=False)):
            # A rule on a list's part is shown at the line in which the list is typed.
            name = problem.steps[0] if problem.steps else "name"
            fields.refuse(name, problem.got, problem.allowed)
        return None


def _consequences(
    fields: Fields, plan: Plan, kind: str, part: Any, update: dict[str, Any]
) -> dict[str, Any]:
    """A changed kind brings its own figures and takes those of the old one along."""
    if kind == "load" and update.get("kind", part.kind) != part.kind:
        fresh = new_load(load_id=part.id, name=part.name, place=part.place, kind=update["kind"])
        typed = update.get("load_class", part.load_class)
        of_class = fresh.load_class if typed == part.load_class else typed
        return {
            **update,
            **_returning(part, of_class),
            **figures_for(update["kind"]),
            **({} if LOAD_FACTS[update["kind"]].low_voltage_too else AT_MAINS),
            "nature": usual_nature(update["kind"], of_class),
            "load_class": of_class,
        }
    if kind == "load" and update.get("load_class", part.load_class) != part.load_class:
        of_class = update["load_class"]
        return {**update, **_returning(part, of_class), **_natured(part, of_class, update)}
    if kind == "relay":
        update = _cable(dict(update), part)
        return _switched(dict(update), part) if "switch" in update else update
    if kind == "board" and "board_type" in update:
        # A controller is fed by a supply; what hangs on one is fed, and reached, by its host.
        if board_types(plan)[update["board_type"]].role == "controller":
            return {**update, "host": None, "address": None}
        return {**update, "supply": None}
    if kind == "probe":
        update = _filtered(fields, _cable(_stuck(dict(update)), part))
        own = f"{PART_OF}{part.part_with}" if part.part_with else ""
        wanted = update.pop("sensor_kind", part.sensor.kind if part.sensor else own)
        several = SEVERAL.get(update.pop("several", ""))
        if several is not None and wanted and wanted not in several.kinds:
            ways = " or ".join(SENSOR_FACTS[kind].name for kind in several.kinds)
            fields.refuse("sensor_kind", f"{several.name}, made otherwise", ways)
        quantity = update.get("quantity", part.quantity)
        if quantity != part.quantity:
            usual = new_probe(probe_id=part.id, name=part.name, place=part.place, quantity=quantity)
            update |= {
                "range": usual.range,
                "resolution": usual.resolution,
                "calibration": usual.calibration,
            }
        update["part_with"] = wanted.removeprefix(PART_OF) if wanted.startswith(PART_OF) else None
        if not wanted or update["part_with"]:
            update["sensor"] = None
        elif part.sensor is None or part.sensor.kind != wanted:
            model = SENSOR_FACTS[wanted].model
            facts = {"address": _free_address(plan)} if "address" in model.model_fields else {}
            update["sensor"] = model.model_validate(facts)
    return update


def _returning(load: Load, load_class: LoadClass) -> dict[str, Any]:
    """Another class brings its own return after a power cut, where the old one's stands."""
    back = load.power_return
    if back.reason or back.policy != usual_return(load.load_class):
        return {}
    return {"power_return": back.model_copy(update={"policy": usual_return(load_class)})}


def _natured(load: Load, load_class: LoadClass, typed: dict[str, Any]) -> dict[str, Any]:
    """Another class is mostly another kind of part, where nobody said what it is."""
    usual = usual_nature(load.kind, load.load_class)
    if load.nature != usual or typed.get("nature", usual) != usual:
        return {}
    return {"nature": usual_nature(load.kind, load_class)}


def _stuck(update: dict[str, Any]) -> dict[str, Any]:
    """When a probe counts as stuck: never, where no time is typed."""
    if "stuck_after_s" not in update:
        return update
    after_s, band = update.pop("stuck_after_s"), update.pop("stuck_band", 0.0)
    return {**update, "stuck": None if after_s is None else Stuck(after_s=after_s, band=band)}


def _filtered(fields: Fields, update: dict[str, Any]) -> dict[str, Any]:
    """How readings are smoothed: nothing where nothing is typed."""
    if "averaging_kind" not in update:
        return update
    tau_s, per_s = update.pop("smoothing_s"), update.pop("jump_per_s")
    kind, of = update.pop("averaging_kind"), update.pop("averaging_of")
    if kind and (of is None or of != int(of) or not 2 <= of <= 1000):
        fields.refuse("averaging_of", "nothing" if of is None else short(of), "2 to 1000, whole")
        of = 2
    accept = update.pop("jump_accept", None)
    if accept is not None and (accept != int(accept) or accept < 1):
        fields.refuse("jump_accept", short(accept), "1 to 1000, whole")
    kept = 3 if accept is None else max(1, int(accept))
    warm_up_s = update.pop("probe_warm_up_s", None) or 0.0
    return {
        **update,
        "warm_up_s": warm_up_s,
        "smoothing": None if tau_s is None else Smoothing(tau_s=tau_s),
        "averaging": Averaging(kind=kind, of=int(of)) if kind else None,
        "jump": None if per_s is None else Jump(per_s=per_s, accept_after=kept),
    }


def _switched(update: dict[str, Any], relay: RelayOutput) -> dict[str, Any]:
    """Another kind of switch brings its own figures: of a transistor those of its kind."""
    kind, switched = update.pop("switch"), update.get("transistor", relay.transistor)
    if not kind:
        return {**update, "transistor": None}
    if switched is None or switched.kind != kind:
        volts = {"full_at_v": 0.7} if kind == "bipolar" else {}
        switched = TransistorSwitch.model_validate({"kind": kind, **volts})
    return {**update, "transistor": switched, "active": "high", "contactor": False}


def _cable(update: dict[str, Any], part: Probe | RelayOutput) -> dict[str, Any]:
    """A cable as it is named: its cores, twisted, screened."""
    if "cable_kind" not in update:
        return update
    kind, cores = update.pop("cable_kind"), update.pop("cores", part.cable.cores)
    new_cable = Cable(cores=cores, twisted="twisted" in kind, screened="screened" in kind)
    return {**update, "cable": new_cable}


def form_of(groups: tuple[Group, ...]) -> str:
    """What a form was made for: the choices that other figures hang on, in one line."""
    return "|".join(f.value for group in groups for f in group.fields if f.remade)


def as_made(plan: Plan, kind: str, part: Any, sent: Mapping[str, str]) -> Any:
    """The part that a sent form was made for: as it is, or as the form was made anew for it."""
    anew = as_typed(plan, kind, part, sent)
    return anew if sent.get("form_of") == form_of(groups_of(plan, kind, anew)) else part


def as_typed(plan: Plan, kind: str, part: Any, sent: Mapping[str, str]) -> Any:
    """A part as far as its choices of kind say, for a form that is made anew while it is typed.

    What is not offered, or does not fit, is left as it was.
    """
    fields = Fields(sent)
    chosen = {
        field.name: sent[field.name]
        for group in groups_of(plan, kind, part)
        if not group.inside
        for field in group.fields
        if field.remade and field.name in sent
    }
    for _ in range(2):  # what is offered under one choice hangs on the other
        offered = {
            field.name: dict(field.options)
            for group in groups_of(plan, kind, part)
            for field in group.fields
            if field.remade
        }
        fits = {key: value for key, value in chosen.items() if value in offered.get(key, {})}
        update = _consequences(fields, plan, kind, part, fits)
        try:
            part = type(part).model_validate({**dict(part), **update})
        except ValidationError:
            return part
    return part


def _free_address(plan: Plan) -> int:
    devices = [(sensor_device(probe), probe.sensor) for probe in plan.probes]
    used = {device.address(sensor) for device, sensor in devices if device is not None}
    return next(address for address in range(FIRST_ADDRESS, LAST_ADDRESS) if address not in used)


def _field_of(problem: PlanError, fields: Fields) -> str:
    name = problem.where.rsplit("/", 1)[-1]
    return name if name in fields.sent else "name"
