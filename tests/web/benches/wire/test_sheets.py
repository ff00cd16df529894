"""Door sheet and electrician’s part."""

import subprocess

from tests.web.pages import draft

from aldea.core.plan.document import Plan
from aldea.core.plan.edits import put_part
from aldea.core.wiring.conductors import conductors
from aldea.demo.mill import mill_plan
from aldea.web.benches.wire.sheets.view import make_sheet
from aldea.web.shell.printing import READY, PrintProcess


def test_the_sheet_says_isolation_first():
    sheet = make_sheet(mill_plan(), ())
    assert sheet.feeds == "F1, F2, F3, F4 and F5"
    said = " ".join(sheet.isolation)
    for words in (
        "F2 feeds 3 loads",
        "hold charge",
        "X1:8a and X1:8b can be live",
        "shuts by itself",
    ):
        assert words in said
    rows = {row.load: row for row in sheet.rows}
    assert rows["Loft skylight"].terminals == "volt-free"


def low_voltage_house() -> Plan:
    """A garage: a 12 V fan by a transistor, a siren, and a door with a volt-free button."""
    base = mill_plan()
    keep = ("store_fan", "skylight")
    fan = base.load("store_fan")
    assert fan is not None
    dc = fan.model_copy(
        update={"volts": 12.0, "runs_on": "dc", "supply": base.supplies[0].id, "feed": ""}
    )
    loads = tuple(dc if load.id == "store_fan" else load for load in base.loads if load.id in keep)
    relays = tuple(relay for relay in base.relays if relay.load in keep)
    return base.model_copy(update={"loads": loads, "relays": relays, "invariants": ()})


def test_a_panel_without_mains_asks_nobody_to_prove_dead_at_x1():
    sheet = make_sheet(low_voltage_house(), ())
    assert {row.load for row in sheet.rows} == {"Store fan", "Loft skylight"}
    assert not sheet.on_mains
    assert not sheet.feeds
    assert not [line for line in sheet.isolation if "double line" in line]


def test_the_electricians_sheet_lists_mains_alone():
    plan = mill_plan()
    fan = plan.load("store_fan")
    assert fan is not None
    dc = fan.model_copy(
        update={"volts": 12.0, "runs_on": "dc", "supply": plan.supplies[0].id, "feed": ""}
    )
    mixed = put_part(plan, "load", dc)
    sheet = make_sheet(mixed, ())
    assert "Store fan" in {row.load for row in sheet.rows}
    assert {"Store fan", "Loft skylight"}.isdisjoint({row.load for row in sheet.on_mains})
    below = next(line for line in sheet.isolation if "double line" in line)
    assert "Store fan (extra-low voltage)" in below
    assert "Loft skylight (volt-free)" in below


def test_the_printed_sheets_hold_every_conductor(signed, tmp_path):
    """Read back with pdftotext: no number, terminal or relay is missing on paper."""
    client = signed("guest")
    plan = mill_plan(on=62.0, off=56.0)
    texts = {}
    for sheet in ("door-sheet", "electrician"):
        file = tmp_path / f"{sheet}.pdf"
        file.write_bytes(client.get(f"/h/molino-alto/wire/{sheet}.pdf").content)
        done = subprocess.run(
            ["pdftotext", "-layout", str(file), "-"], capture_output=True, text=True, check=True
        )
        texts[sheet] = done.stdout
    for wire in conductors(plan):
        text = texts["door-sheet" if wire.net == "ELV" else "electrician"]
        line = [row for row in text.split("\n") if row.split()[:1] == [wire.number]]
        assert line, wire.number
        first = " ".join(wire.start.split(":")[0].split()[:3])
        assert first in " ".join(line), wire.number
    for relay in plan.relays:
        assert relay.id.upper() in texts["door-sheet"]
    assert "prove dead at X1" in texts["door-sheet"]
    assert "prove dead at X1" in texts["electrician"]


def test_a_sheet_is_drawn_once_for_a_plan_and_anew_for_another(signed, monkeypatch):
    drawn: list[str] = []
    whole = PrintProcess.pdf

    def counted(process: PrintProcess, html: str, styles: tuple[str, ...]) -> bytes:
        if html != READY:
            drawn.append(html)
        return whole(process, html, styles)

    monkeypatch.setattr(PrintProcess, "pdf", counted)
    client = signed("jon")
    path = "/h/molino-alto/wire/electrician.pdf"
    first = client.get(path).content
    already = len(drawn)
    assert client.get(path).content == first
    assert len(drawn) == already
    version = draft(client)["version"]
    assert client.post("/h/molino-alto/draft/undo", data={"version": version}).status_code == 303
    assert client.get(path).content != first
    assert len(drawn) == already + 1
    assert f"draft {version + 1}" in drawn[-1]
