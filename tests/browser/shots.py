"""The pictures of docs/screenshots, taken from the demo data: `./aldea shots`."""

import shutil
import subprocess
import tempfile
from io import BytesIO
from pathlib import Path
from random import Random

from PIL import Image
from playwright.sync_api import FloatRect, Page, sync_playwright
from tests.browser.driving import HOUSE, LAUNCH, settle, sign_in
from tests.serving import served
from tests.web.benches.calibrate.recordings.recorded import EMPTY, GAPS, OCCUPIED, bench_at

from aldea.demo.load import load_demo
from aldea.native.engine import load_engine
from aldea.store.cluster import Cluster
from aldea.store.database import Database, ensure_database
from aldea.store.settings import Settings

FOLDER = Path(__file__).resolve().parents[2] / "docs/screenshots"
TILE_PX = 300
WALL: FloatRect = {"x": 0, "y": 44, "width": 1280, "height": 600}
BY_HAND = (
    ("doorway", "door_outer"),
    ("contact", "skylight_shut"),
    ("light", "stair_light"),
    ("gas", "studio_gas"),
    ("multiplexer", "rack_inputs"),
    ("air", "drying_rh"),
)
TUNE = f"{HOUSE}/tune/dehumidifier"
CALIBRATE = f"{HOUSE}/calibrate/drying_rh"


def keep(page: Page, name: str) -> None:
    """One picture, when everything has come."""
    settle(page)
    page.wait_for_timeout(250)
    page.screenshot(path=FOLDER / f"{name}.png")


def by_hand(page: Page, base: str) -> None:
    """Six benches on one picture, each without roof and timeline, the mill's recording opened."""
    whole = Image.new("RGB", (1280, 3 * TILE_PX), "white")
    for index, where in enumerate(BY_HAND):
        page.goto(base + bench_at(*where))
        page.locator("#recordings a").first.click()
        settle(page)
        page.wait_for_timeout(250)
        shot = Image.open(BytesIO(page.screenshot(clip=WALL))).convert("RGB")
        tile = shot.resize((640, TILE_PX))
        whole.paste(tile, (640 * (index % 2), TILE_PX * (index // 2)))
    whole.save(FOLDER / "by-hand.png", optimize=True)


def sheet(page: Page, address: str, folder: Path) -> None:
    """The first page of a printed sheet as a picture, by poppler's pdftoppm."""
    pdf = folder / "sheet.pdf"
    pdf.write_bytes(page.request.get(address).body())
    target = FOLDER / "door-sheet"
    command = ["pdftoppm", "-png", "-r", "96", "-f", "1", "-l", "1", "-singlefile"]
    subprocess.run([*command, str(pdf), str(target)], check=True)


def walk(page: Page, base: str, folder: Path) -> None:
    """The tour, in the order of the work."""
    sign_in(page, base, "jon")
    page.goto(f"{base}{HOUSE}?at=1763037000000")
    keep(page, "house")
    page.goto(f"{base}{HOUSE}/layout?part=load:inlet_valve")
    keep(page, "layout")
    page.goto(f"{base}{HOUSE}/wire")
    keep(page, "wire")
    page.goto(f"{base}{HOUSE}/wire/circuits")
    keep(page, "circuits")
    sheet(page, f"{base}{HOUSE}/wire/door-sheet.pdf", folder)
    page.goto(f"{base}{HOUSE}/wire/controls?control=step_selector&field=positions&key=010")
    keep(page, "controls")
    page.goto(f"{base}{HOUSE}/calibrate/studio_temp")
    keep(page, "thermometer")
    page.goto(f"{base}/houses")
    keep(page, "start")
    noise = Random(3)
    dry = "+".join(str(round(noise.gauss(1960, 25))) for _ in range(60))
    page.goto(f"{base}{HOUSE}/recordings/tape/manifold_tape?readings={dry}")
    keep(page, "tape")
    page.goto(f"{base}{HOUSE}/recordings/radar/stair_radar")
    page.locator("#f-empty").fill(EMPTY)
    page.locator("#f-occupied").fill(OCCUPIED)
    page.locator("#f-gaps").fill(GAPS)
    page.get_by_role("button", name="Compare").click()
    page.locator("#table-1").wait_for()
    keep(page, "radar")
    by_hand(page, base)
    page.goto(base + CALIBRATE)
    keep(page, "calibrate")
    page.locator("summary", has_text="Sign certificate").click()
    page.get_by_role("button", name="Sign certificate").click()
    page.wait_for_url("**/certificates/1")
    keep(page, "certificate")
    page.goto(f"{base}{TUNE}?at=1763030000000")
    keep(page, "tune")
    page.goto(f"{base}{HOUSE}/rule?load=panel_heater")
    keep(page, "rule")
    page.goto(f"{base}{HOUSE}/rule?load=extractor&rule=ex_steam")
    keep(page, "rule-form")
    page.goto(f"{base}{HOUSE}/rule/house")
    keep(page, "rule-schedule")
    page.goto(f"{base}{HOUSE}/rule/sentences")
    page.keyboard.press("d")
    keep(page, "rule-sentences")
    page.keyboard.press("d")
    page.goto(f"{base}{HOUSE}/record")
    keep(page, "record")


def main() -> None:
    """A house of its own, so that every picture is the same each time."""
    load_engine(Settings().engine)
    FOLDER.mkdir(parents=True, exist_ok=True)
    folder = Path(tempfile.mkdtemp(prefix="aldea-shots-"))
    folder.chmod(0o755)
    cluster = Cluster(folder / "cluster", throw_away=True)
    cluster.start()
    try:
        ensure_database(cluster.url())
        database = Database(cluster.url())
        database.migrate()
        load_demo(database)
        with served(database, folder / "uploads") as base, sync_playwright() as play:
            browser = play.chromium.launch(**LAUNCH)
            context = browser.new_context(
                viewport={"width": 1280, "height": 800}, color_scheme="light", locale="en-GB"
            )
            walk(context.new_page(), base, folder)
            browser.close()
        database.close()
    finally:
        cluster.remove()
        shutil.rmtree(folder, ignore_errors=True)


if __name__ == "__main__":
    main()
