"""What the engine can do, a form can say: every field of the plan's document has one.

Walks the document model by model. A field is said where some page has an input of its name (behind
a prefix, too), or of the name that is given for it here; what no form says stands below with why.
"""

import re
import types
from collections.abc import Iterator
from http import HTTPStatus
from typing import Any, get_args, get_origin

from tests.web.pages import H, draft

from aldea.core.base.parts import Part
from aldea.core.devices.loads.models import LOAD_FACTS
from aldea.core.devices.sensors.models import SENSOR_FACTS
from aldea.core.plan.controls import ControlType
from aldea.core.plan.document import Plan

WANTS = ("ControlAction", "ButtonPress", "RemoteCode", "SelectorPosition")
# A field that its form calls otherwise.
CALLED: dict[str, str] = {
    # on the page of a board of one's own, beside its table
    **{f"BoardType.{key}": "table" for key in (
        "has_radio", "rails_v", "converter_bits", "converter_v", "logic_v", "role", "settle_us")},
    **{f"Pin.{key}": "table" for key in (
        "analog_dies_with_radio", "boot_ms", "boot_needs", "boot_pull", "can", "limit_ma", "port",
        "programming", "tolerates_v")},
    **{f"{want}.ends_with_mode": "ends" for want in WANTS},
    **{f"{want}.mode": "target" for want in WANTS},
    **{f"{want}.trip": "target" for want in WANTS},
    "Assignment.pin": "pin-",
    "Cable.screened": "cable_kind",
    "Cable.twisted": "cable_kind",
    "Capacitor.capacitance_uf": "capacitors",
    "Capacitor.role": "capacitors",
    "Rule.disabled": "rule",
    "DaysOut.first": "except_dates",
    "DaysOut.last": "except_dates",
    "DaysOut.yearly": "except_dates",
    "InMode.mode": "value",
    "Jump.accept_after": "jump_accept",
    "Jump.per_s": "jump_per_s",
    "LoadGroup.members": "member-",
    "Moments.days": "mon",
    "OnlyIn.mode": "only",
    "Probe.part_with": "sensor_kind",
    "Probe.warm_up_s": "probe_warm_up_s",
    "OnSensorFault.each": "fault_each",
    "Smoothing.tau_s": "smoothing_s",
    "Stuck.band": "stuck_band",
    "TransistorSwitch.on_v": "on_ohm",  # in its place where the transistor is a bipolar one
    "Window.days": "mon",
}  # fmt: skip
MEASURED = "what a bench measured: put in the plan there"
SUGGESTED = "a must-never is chosen among suggestions at Lay out, its figures changed there"
# What no form says, and why.
BY_ITSELF: dict[str, str] = {
    **{f"Calibration.{key}": MEASURED for key in (
        "carried_from", "certificate", "circuit", "expanded_uncertainty", "intercept", "slope")},
    **{f"ProvenRange.{key}": MEASURED for key in ("low", "high", "middle", "expanded_per_unit")},
    **dict.fromkeys(
        (
            "LeakTape.baseline_counts",
            "MotionSensor.longest_gap_s",
            "SerialSensor.gates",
            "Thermistor.curve",
            "Setpoint.differential",
        ),
        MEASURED,
    ),
    **dict.fromkeys(
        (
            "AtMost.at_most_s",
            "AtMost.window_s",
            "Never.longer_than_s",
            "NeverTogether.loads",
            "ProbeIs.quality",
        ),
        SUGGESTED,
    ),
    "Lux.share": "a photoresistor gives lux by itself: a probe is made as one at Lay out",
    **{f"Stock.{key}": "typed in the table of what to buy, under the part's name" for key in (
        "in_drawer", "pack", "pack_price", "spares")},
    "Rule.percent": "a load in steps is given its step by name",
    "Plan.scan_period_ms": "an internal of the analog side: nothing a person does hangs on it",
    "RelayOutput.role": "what its load needs it for: proposed with it",
    "Wanted.percent": "a load in steps is given its step by name",
}  # fmt: skip
PAGES = (
    *(f"/layout?add={kind}" for kind in ("place", "supply", "board", "probe", "load", "control")),
    "/layout?part=house",
    "/wire/controls",
    *(f"/wire/controls?control={who}" for who in ("drying_remote", "step_selector", "mode_button")),
    "/wire/boards?type=wifi_38",
    "/wire/boards",
    "/wire/parts",
    *(f"/rule/house?part={kind}:" for kind in
      ("schedule", "mode", "doorway", "signal", "condition", "exclusive", "memory")),
)  # fmt: skip


# What tells parts and kinds apart; a part within a part is judged by its own fields.
NO_FIGURE = ("id", "kind", "form", "term", "format")


def models_of(
    model: type[Part], seen: dict[str, type[Part]] | None = None
) -> dict[str, type[Part]]:
    """Every model of the document by its name, from the plan down."""
    seen = {} if seen is None else seen
    if model.__name__ not in seen:
        seen[model.__name__] = model
        for field in model.model_fields.values():
            for inner in parts_in(field.annotation):
                models_of(inner, seen)
    return seen


def parts_in(annotation: Any) -> Iterator[type[Part]]:
    if isinstance(annotation, type) and issubclass(annotation, Part):
        yield annotation
    elif hasattr(annotation, "__metadata__"):
        yield from parts_in(annotation.__origin__)
    elif get_origin(annotation) is not None or isinstance(annotation, types.UnionType):
        for inner in get_args(annotation):
            yield from parts_in(inner)


def names_on(client: Any) -> set[str]:
    """The names of every input of the pages, without the prefixes of rows and conditions."""
    # The mill's button has all of its presses: with one taken out, one can be added.
    gone = {"control": "mode_button", "field": "presses", "key": "double"}
    sent = {**gone, "version": str(draft(client)["version"])}
    assert client.post(f"{H}/wire/controls/forget", data=sent).status_code == HTTPStatus.SEE_OTHER
    plan = draft(client)["plan"]
    pages = [f"{H}{page}" for page in PAGES]
    for kind in ("probe", "load", "control", "board", "supply", "place"):
        collection = {"supply": "supplies"}.get(kind, f"{kind}s")
        pages += [f"{H}/layout?part={kind}:{part['id']}" for part in plan[collection]]
    pages += [f"{H}/wire?part=relay:{relay['id']}" for relay in plan["relays"]]
    for load in plan["loads"]:
        pages += [f"{H}/rule/failsafe?load={load['id']}", f"{H}/tune/{load['id']}"]
        pages += [f"{H}/rule?load={load['id']}&add={kind}" for kind in ADDED]
    pages += [f"{H}/rule?load={c['load']}&rule={c['id']}" for c in plan["rules"]]
    found: set[str] = set()
    for sent in VARIANTS:
        text = client.post(f"{H}{sent.pop('to')}", data={"version": "1", **sent}).text
        found |= set(NAME.findall(text))
    for page in pages:
        found |= set(
            re.findall(r'<(?:input|select|textarea)[^>]*?\sname="([^"]+)"', client.get(page).text)
        )
    bare = {re.sub(r"^(c_|w\d+_|m\d+_|d\d+_|change\d+_)", "", name) for name in found}
    whose = {f"{name.partition('-')[0]}-" for name in found if "-" in name}  # pin-probe:rh.data
    return found | bare | whose


NAME = re.compile(r'<(?:input|select|textarea)[^>]*?\sname="([^"]+)"')
# Forms that are made anew for a choice: each kind of load, of control, of sensor, of signal.
VARIANTS: list[dict[str, str]] = [
    *({"to": "/layout/form", "part_kind": "load", "name": "x", "place": "studio", "kind": kind}
      for kind in LOAD_FACTS),
    *({"to": "/layout/form", "part_kind": "control", "name": "x", "place": "studio", "kind": kind}
      for kind in get_args(ControlType)),
    *({"to": "/layout/form", "part_kind": "probe", "name": "x", "place": "studio",
       "quantity": facts.measures[0], "sensor_kind": facts.kind}
      for facts in SENSOR_FACTS.values()),
    {"to": "/rule/house/fields", "part_kind": "mode", "change0_when": "schedule:night"},
    *({"to": "/rule/house/fields", "part_kind": "signal", "made": kind}
      for kind in ("mean", "difference", "rate", "dew_point", "echo_distance", "lux")),
]  # fmt: skip
ADDED = ("band", "above", "below", "within", "difference", "rate", "tape", "contact", "presence",
         "dark", "gas", "position", "count", "window", "sun", "mode", "load", "quality",
         "clock_known", "always", "named", "probe")  # fmt: skip


def test_every_field_of_the_plan_is_said_by_a_form(signed):
    names = names_on(signed("jon"))
    models = models_of(Plan)
    fields = {
        f"{name}.{key}"
        for name, model in models.items()
        for key, field in model.model_fields.items()
        if key not in NO_FIGURE and not list(parts_in(field.annotation))
    }
    unsaid = sorted(
        field
        for field in fields - set(BY_ITSELF)
        if CALLED.get(field, field.partition(".")[2]) not in names
    )
    assert unsaid == []
    assert set(CALLED) | set(BY_ITSELF) <= fields, "a field that is gone still stands here"
