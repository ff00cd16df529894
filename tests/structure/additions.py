"""A made-up one of everything that can be added: its new files, its lines in others, and a proof.

Paths are below `src/aldea`. The proof runs in an interpreter of its own on a copy of the source.
"""

from dataclasses import dataclass


@dataclass(frozen=True, slots=True, kw_only=True)
class Addition:
    """What is added: new files, lines put in before a mark of a file, and what must work then."""

    new: dict[str, str]
    lines: dict[str, tuple[tuple[str, str], ...]]
    proof: str


BENCH = Addition(
    new={
        "web/benches/weigh/__init__.py": '''"""Scales for the flour."""

from pathlib import Path

from aldea.web.benches.weigh import routes
from aldea.web.shell.bench import Bench, Key

BENCH = Bench(
    key="weigh", folder=Path(__file__).parent, routers=(routes.router,), name="Weigh", digit="8",
    path="/weigh", part="keep", keys=(Key(key="W", does="weigh"),), views=("/weigh",),
)
''',
        "web/benches/weigh/routes.py": '''"""The one page."""

from fastapi import APIRouter, Request, Response

from aldea.web.shell.access import MemberAccess, State
from aldea.web.shell.page import open_house_of, timeline_now, render_bench

router = APIRouter(prefix="/h/{slug}", include_in_schema=False)


@router.get("/weigh")
def weigh(request: Request, state: State, access: MemberAccess) -> Response:
    """What it weighs."""
    opened = open_house_of(state, access)
    timeline = timeline_now(request, state, opened)
    return render_bench(request, "weigh/weigh.html", opened, current="weigh", timeline=timeline)
''',
        "web/benches/weigh/weigh.html": '{% extends "bench.html" %}\n',
        "web/benches/weigh/weigh.js": "export const grams = 1000;",
    },
    lines={
        "web/registry.py": (
            ("    wire,\n    words,\n)", "    weigh,\n"),
            ("    record.BENCH,\n", "    weigh.BENCH,\n"),
        )
    },
    proof="""
from pathlib import Path
from aldea.store.database import Database
from aldea.web.app import create_app
from aldea.web.shell.templates import templates
app = create_app(Database("postgresql+psycopg://nobody@localhost/none"), Path("/nonexistent"))
assert app.url_path_for("weigh", slug="mill") == "/h/mill/weigh"
assert [d.name for d in templates.env.globals["doorways"]].count("Weigh") == 1
assert any(k.does == "weigh (Weigh)" for k in templates.env.globals["keys"])
assert templates.env.get_template("weigh/weigh.html")
from aldea.web.registry import BENCHES
assert [list(b.scripts) for b in BENCHES if b.key == "weigh"] == [["weigh.js"]]
""",
)

RECORDINGS_BENCH = Addition(
    new={
        "web/benches/calibrate/recordings/drip.py": '''"""How fast a tap drips."""

from aldea.core.words.verdicts import Verdict
from aldea.web.benches.calibrate.recordings.bench import (
    Ask,
    Found,
    Given,
    RecordingsBench,
    filled,
    probes_made_as,
)

ASKS = (Ask(name="drops", label="Drops heard at", unit="s", rows=3),)


def _work(given: Given) -> Found:
    count = len(given.figures("drops", "s"))
    given.fields.check()
    return Found(verdict=Verdict(state="holds", sentence=f"{count} drops."))


DRIP = RecordingsBench(
    key="drip", called="a leak tape", heading="Dripping tap",
    does="drops a minute", takes="a minute",
    subjects=probes_made_as("leak_tape"), asks=lambda _plan, _subject: ASKS, work=_work,
    begin="Listen.", empty="Type when it dripped.", enough=filled("drops"),
)
'''
    },
    lines={
        "web/benches/calibrate/recordings/registry.py": (
            (
                "from aldea.web.benches.calibrate.recordings.filters",
                "from aldea.web.benches.calibrate.recordings.drip import DRIP\n",
            ),
            ("        FILTERS,\n", "        DRIP,\n"),
        )
    },
    proof="""
from aldea.core.plan.document import Plan
from aldea.demo.mill import mill_plan
from aldea.web.benches.calibrate.recordings.bench import Given
from aldea.web.benches.calibrate.certificates.due import due_list
from aldea.web.benches.calibrate.first.view import first_page
from aldea.web.benches.calibrate.recordings.registry import RECORDINGS_BENCHES
from aldea.web.shell.forms import Fields
from aldea.web.shell.window import Window
plan = mill_plan()
rows = {tile.heading: tile for tile in first_page(plan, "/h/mill", due_list(plan, [], 0)).here}
address = "/h/mill/recordings/drip/manifold_tape"
assert ("Manifold tape", address, False) in rows["Dripping tap"].links
window = Window(start_ms=0, end_ms=1, at_ms=1, now_ms=1)
given = Given(plan=mill_plan(), subject="manifold_tape", fields=Fields({"drops": "1 2 3"}),
              record=None, window=window)
assert RECORDINGS_BENCHES["drip"].work(given).verdict.sentence == "3 drops."
""",
)

SENSOR = Addition(
    new={
        "core/devices/sensors/hall/__init__.py": '"""A magnet sensor."""\n',
        "core/devices/sensors/hall/model.py": '''"""A magnet sensor: its figures."""

from typing import Annotated, Literal

from pydantic import Field

from aldea.core.base.parts import Part
from aldea.core.devices.sensors.facts import SensorFacts


class HallSensor(Part):
    """A switch without contacts; mT at which it closes."""

    kind: Literal["hall"] = "hall"
    closes_mt: Annotated[float, Field(gt=0, le=500)] = 12.0


HALL = SensorFacts(
    kind="hall", name="magnet sensor", model=HallSensor, measures=("position",)
)
''',
        "core/devices/sensors/hall/device.py": '''"""A magnet sensor in a plan."""

from collections.abc import Iterator
from typing import ClassVar

from aldea.core.devices.asked import Asked, Asks
from aldea.core.devices.sensors.device import SensorDevice
from aldea.core.devices.sensors.hall.model import HALL, HallSensor
from aldea.core.devices.signal import Signal, probe_signal
from aldea.core.plan.document import Probe


class HallDevice(SensorDevice[HallSensor]):
    """One line, low beside the magnet; fed by its board."""

    facts = HALL
    asks: ClassVar[Asks] = {"closes_mt": Asked(label="Closes at", unit="mT")}

    def signals(self, probe: Probe, sensor: HallSensor) -> Iterator[Signal]:
        """Its line."""
        yield probe_signal(probe, "sense", "digital_in")

    def supply(self, sensor: HallSensor) -> tuple[float, float] | None:
        """Five volts, five milliamperes."""
        return 5.0, 5.0


DEVICE = HallDevice()
''',
    },
    lines={
        "core/devices/sensors/models.py": (
            (
                "from aldea.core.devices.sensors.leak_tape",
                "from aldea.core.devices.sensors.hall.model import HALL, HallSensor\n",
            ),
            ("    | LeakTape\n", "    | HallSensor\n"),
            ("    LEAK_TAPE,\n", "    HALL,\n"),
        ),
        "core/devices/sensors/registry.py": (
            (
                "from aldea.core.devices.sensors.leak_tape",
                "from aldea.core.devices.sensors.hall import device as hall\n",
            ),
            ("        leak_tape,\n", "        hall,\n"),
        ),
    },
    proof="""
from aldea.core.plan.defaults import new_probe
from aldea.core.plan.document import Plan
from aldea.core.plan.edits import put_part
from aldea.core.plan.text import plan_schema, plan_text, read_plan
from aldea.core.wiring.assign import assign_pins
from aldea.core.wiring.conductors import conductors
from aldea.core.wiring.findings import findings
from aldea.core.wiring.parts import part_lines
from aldea.demo.mill import mill_plan
from aldea.web.shell.part_form.parts import groups_of
plan = mill_plan()
probe = new_probe(probe_id="hatch", name="Hatch", place="loft", quantity="position")
form = groups_of(put_part(plan, "probe", probe), "probe", probe)
ways = next(f for g in form for f in g.fields if f.name == "sensor_kind")
assert "hall" in dict(ways.options)
from aldea.core.devices.sensors.hall.model import HallSensor
made = probe.model_copy(update={"sensor": HallSensor(closes_mt=20.0)})
plan = read_plan(plan_text(put_part(plan, "probe", made)))
plan = plan.model_copy(update={"assignments": assign_pins(plan).assignments})
assert [w for w in conductors(plan) if w.owner == "probe:hatch"]
assert any(line.part == "magnet sensor" for line in part_lines(plan))
shown = {f.name: f for g in groups_of(plan, "probe", made) for f in g.fields}
assert (shown["closes_mt"].value, shown["closes_mt"].unit) == ("20", "mT")
findings(plan)
assert "HallSensor" in plan_schema()["$defs"]
""",
)

LOAD = Addition(
    new={
        "core/devices/loads/damper/__init__.py": '"""An air damper."""\n',
        "core/devices/loads/damper/model.py": '''"""An air damper: its figures."""

from typing import Annotated

from pydantic import Field

from aldea.core.base.parts import Part
from aldea.core.devices.loads.facts import LoadFacts


class Damper(Part):
    """A flap that a spring shuts; seconds that it takes."""

    shuts_s: Annotated[float, Field(gt=0, le=300)] = 20.0


DAMPER = LoadFacts(
    kind="damper", name="air damper", usual_class="air", usual_nature="coil", figures="damper",
    model=Damper,
)
''',
        "core/devices/loads/damper/device.py": '''"""An air damper in a plan."""

from collections.abc import Iterator
from typing import ClassVar

from aldea.core.devices.asked import Asked, Asks
from aldea.core.devices.loads.damper.model import DAMPER
from aldea.core.devices.loads.device import LoadDevice
from aldea.core.plan.document import Load


class DamperDevice(LoadDevice):
    """Its spring shuts it without supply."""

    facts = DAMPER
    title = "Damper"
    asks: ClassVar[Asks] = {"shuts_s": Asked(label="Shuts in", unit="s")}
    state_words = ("Shut", "Open")

    def isolation(self, load: Load, labels: list[str]) -> Iterator[str]:
        """It moves when it is switched off."""
        yield f"{load.name} shuts by itself without supply."


DEVICES = (DamperDevice(),)
''',
    },
    lines={
        "core/devices/loads/models.py": (
            (
                "from aldea.core.devices.loads.facts",
                "from aldea.core.devices.loads.damper.model import DAMPER, Damper\n",
            ),
            ('"relay", "two_way", "valve"', '"damper", '),
            ("    INDICATOR,\n", "    DAMPER,\n"),
            ("    pattern: Pattern", "    damper: Damper | None = None\n"),
        ),
        "core/devices/loads/registry.py": (
            (
                "from aldea.core.devices.loads.device",
                "from aldea.core.devices.loads.damper import device as damper\n",
            ),
            ("indicator)\n", "damper, "),
        ),
    },
    proof="""
from aldea.core.plan.defaults import new_load
from aldea.core.plan.edits import put_part
from aldea.core.plan.text import plan_text, read_plan
from aldea.core.engine.compiled_plan import compile_plan
from aldea.core.wiring.assign import assign_pins
from aldea.core.wiring.conductors import conductors
from aldea.core.wiring.findings import findings
from aldea.core.wiring.relays import with_relays
from aldea.core.words.reasons import state_word
from aldea.demo.mill import mill_plan
from aldea.web.benches.wire.sheets.view import make_sheet
from aldea.web.shell.part_form.parts import groups_of
load = new_load(load_id="flap", name="Loft flap", place="loft", kind="damper")
load = load.model_copy(update={"feed": "F1"})
plan = read_plan(plan_text(put_part(mill_plan(), "load", load)))
plan = with_relays(plan, "flap")
plan = plan.model_copy(update={"assignments": assign_pins(plan).assignments})
findings(plan)
flap = plan.load("flap").model_copy(update={"stage": "working"})
assert "flap" in compile_plan(put_part(plan, "load", flap)).load_ids
assert [w for w in conductors(plan) if w.owner == "load:flap" and w.net == "mains"]
assert state_word(load, 1) == "Open"
assert "Loft flap shuts by itself without supply." in make_sheet(plan, ()).isolation
shown = {f.name: f for g in groups_of(plan, "load", load) for f in g.fields}
assert (shown["shuts_s"].value, shown["shuts_s"].unit) == ("20", "s")
""",
)

QUANTITY = Addition(
    new={},
    lines={
        "core/base/quantities.py": (
            ('    "count",\n', '    "flour_mass",\n'),
            (
                '    "air_temperature": QuantityFacts(',
                """    "flour_mass": QuantityFacts(
        name="mass of flour", unit="kg", low=0.0, high=500.0, resolution=0.1, uncertainty=0.5
    ),
""",
            ),
        )
    },
    proof="""
from aldea.core.base.quantities import unit_of
from aldea.core.plan.defaults import new_probe
from aldea.core.plan.edits import put_part
from aldea.core.plan.text import plan_text, read_plan
from aldea.demo.mill import mill_plan
from aldea.web.shell.part_form.parts import groups_of
probe = new_probe(probe_id="bin", name="Bin", place="loft", quantity="flour_mass")
plan = read_plan(plan_text(put_part(mill_plan(), "probe", probe)))
assert unit_of(plan.probe("bin").quantity) == "kg"
assert plan.probe("bin").range.high == 500.0
shown = {f.name: f for g in groups_of(plan, "probe", probe) for f in g.fields}
assert ("flour_mass", "mass of flour") in shown["quantity"].options
""",
)

CHECK = Addition(
    new={},
    lines={
        "core/wiring/checks/pins.py": (
            (
                "PIN_CHECKS: tuple[Check, ...] = (",
                '''def spare_pins(plan: Plan) -> Iterator[Finding]:
    """A board without a pin to spare."""
    for board in plan.boards:
        yield Finding(
            key=f"spare-{board.id}", weight="open", head=f"{board.name} has no pin to spare.",
            why="Nothing can be added.", fix="Put in another board.", at=f"board:{board.id}",
        )


''',
            ),
            ("    programming_pins,\n", "    spare_pins,\n"),
        )
    },
    proof="""
from aldea.core.wiring.findings import findings
from aldea.demo.mill import mill_plan
plan = mill_plan()
keys = {finding.key for finding in findings(plan)}
assert {f"spare-{board.id}" for board in plan.boards} <= keys
""",
)

ADDITIONS = {
    "a bench": BENCH,
    "a recordings bench": RECORDINGS_BENCH,
    "a kind of sensor": SENSOR,
    "a kind of load": LOAD,
    "a quantity": QUANTITY,
    "a check": CHECK,
}
