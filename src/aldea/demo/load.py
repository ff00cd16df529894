"""Puts the demo house into an empty database: people, plan, readings, pairs."""

from aldea.core.calibrate.pairs import Approach, Pair
from aldea.core.calibrate.salts import SALTS, salt_rh_pct
from aldea.core.wiring.evidence import circuit_digest
from aldea.demo.hand_recordings import hand_recordings
from aldea.demo.mill import DRYING_RH, mill_plan
from aldea.demo.recorded import END_MS, recorded_days
from aldea.demo.sign_ins import PASSWORD, SIGN_INS
from aldea.store.accounts import create_account, hashed
from aldea.store.calibrations import take_pair
from aldea.store.database import Database, driver_of
from aldea.store.drafts import begin_draft, keep_draft
from aldea.store.houses import add_log_entry, create_house, set_member
from aldea.store.readings import series_id, store_readings
from aldea.store.recordings import keep_recording
from aldea.store.revisions import publish

TEMP_DEGC = 20.0
STUDIO_TEMP = "studio_temp"
# Points of the studio thermistor: medium, how used, reference and its U (k = 2), reading, noted.
POINTS: tuple[tuple[str, Approach, float, float, float, str], ...] = (
    ("ice", "point", 0.0, 0.04, 0.42, ""),
    ("ice", "point", 0.0, 0.04, 0.38, ""),
    ("beside", "point", 21.3, 0.2, 21.95, ""),
    ("beside", "point", 21.4, 0.2, 22.02, ""),
    ("beside", "point", 39.8, 0.2, 40.64, ""),
    ("between", "check", 27.05, 0.15, 27.72, "27.4 °C at 3 cm, 26.5 °C at 5 cm"),
)
HOUR_MS = 3_600_000
# Readings of the drying-room probe in two jars, taken from drier and from wetter air.
JARS: tuple[tuple[str, Approach, tuple[float, ...]], ...] = (
    ("magnesium_chloride", "drier", (34.6, 34.5)),
    ("magnesium_chloride", "wetter", (35.1, 35.0)),
    ("sodium_chloride", "drier", (73.8, 73.7)),
    ("sodium_chloride", "wetter", (74.4, 74.3)),
)
CHECK = (54.8, 55.4, 1.0)  # check instrument's %RH, the probe's reading, U of the instrument


def load_demo(database: Database, *, with_days: bool = True) -> None:
    """Everything in one transaction: a start that is cut short leaves nothing half.

    Without its recorded days it is a house with people, plan, pairs and recordings by hand.
    """
    now_ms = END_MS
    hashes = {name: hashed(PASSWORD) for name, _ in SIGN_INS}
    with database.begin() as connection:
        people = {
            name: create_account(connection, name=name, password_hash=password_hash, now_ms=now_ms)
            for name, password_hash in hashes.items()
        }
        jon = people["jon"]
        house = create_house(
            connection, name="Molino Alto", owner=jon, created_ms=now_ms, now_ms=now_ms
        )
        for name, role in SIGN_INS[1:]:
            set_member(connection, house.id, people[name], role)
        began_ms = now_ms - 31 * 24 * HOUR_MS
        begin_draft(connection, house.id, mill_plan(), jon, began_ms)
        publish(
            connection,
            house.id,
            version_read=1,
            reason="First: the pair from the leaflet.",
            despite="both are only planned.",
            by=jon,
            at_ms=began_ms,
        )
        keep_draft(
            connection,
            house.id,
            mill_plan(on=62.0, off=56.0, min_on_s=300.0, min_off_s=300.0),
            version_read=1,
            by=jon,
            at_ms=now_ms - 2 * HOUR_MS,
        )
        number = 0
        for salt, approach, readings in JARS:
            for reading in readings:
                number += 1
                pair = Pair(
                    reference=salt_rh_pct(salt, TEMP_DEGC),
                    reading=reading,
                    approach=approach,
                    temp_degc=TEMP_DEGC,
                    reference_expanded=SALTS[salt].expanded_uncertainty_rh_pct,
                    medium=salt,
                )
                at_ms = now_ms - (8 - number) * HOUR_MS
                take_pair(connection, house.id, DRYING_RH, pair, by=jon, at_ms=at_ms)
        reference, reading, expanded = CHECK
        take_pair(
            connection,
            house.id,
            DRYING_RH,
            Pair(
                reference=reference,
                reading=reading,
                approach="check",
                temp_degc=TEMP_DEGC,
                reference_expanded=expanded,
            ),
            by=jon,
            at_ms=now_ms - HOUR_MS // 2,
        )
        for index, (medium, approach, reference, expanded, reading, noted) in enumerate(POINTS):
            point = Pair(
                reference=reference,
                reading=reading,
                approach=approach,
                temp_degc=reference,
                reference_expanded=expanded,
                medium=medium,
                detail=noted,
            )
            at_ms = now_ms - (len(POINTS) - index) * HOUR_MS
            take_pair(connection, house.id, STUDIO_TEMP, point, by=jon, at_ms=at_ms)
        plan = mill_plan()
        for recording in hand_recordings():
            probe = plan.probe(recording.subject)
            keep_recording(
                connection,
                house.id,
                bench=recording.bench,
                subject=recording.subject,
                fields=recording.fields,
                summary=recording.summary,
                by=jon,
                at_ms=now_ms - 30 * HOUR_MS,
                circuit=circuit_digest(plan, probe) if probe is not None else "",
            )
        if not with_days:
            return
        recorded = recorded_days()
        ids = {row.probe: series_id(connection, house.id, row.probe) for row in recorded}
        add_log_entry(
            connection,
            house.id,
            account=None,
            at_ms=now_ms,
            what="Thirty recorded days loaded for the demo house.",
        )
        driver = driver_of(connection)
        for row in recorded:
            store_readings(driver, ids[row.probe], row.trace)
