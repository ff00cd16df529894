"""Events of a run as CSV: the same bytes from the page and from the terminal."""

import csv
import io
import math
from datetime import UTC, datetime, timedelta

from aldea.core.engine import layout as lay
from aldea.core.engine.replay import Run

HEADING = ("time_utc", "event_type", "who", "from", "to", "decided_by", "delayed_by", "value")
POWER = ("off", "on")
FORMULA_STARTS = ("=", "+", "-", "@", "\t", "\r")


def safe_cell(text: str) -> str:
    """Text that no spreadsheet takes for a formula."""
    return f"'{text}" if text.startswith(FORMULA_STARTS) else text


def events_csv(run: Run) -> str:
    """All events of a run in order of time, one a line."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(HEADING)
    compiled = run.compiled
    for event in run.events():
        moment = datetime(1970, 1, 1, tzinfo=UTC) + timedelta(milliseconds=event.t_ms)
        when = moment.isoformat(timespec="milliseconds").replace("+00:00", "Z")
        value = "" if math.isnan(event.value) else f"{event.value:.4f}"
        if event.event_type == lay.EVENT_LOAD:
            name = run.claim_row(event.claim)
            decided = "no power" if name is None else lay.RANK_NAMES[name.rank]
            cause = run.claim_row(event.cited)
            if cause is not None:
                decided = f"{decided}: {cause.claim or cause.probe}"
            row = (
                "load",
                compiled.load_ids[event.who],
                POWER[event.state_from],
                POWER[event.state_to],
                decided,
                lay.INHIBIT_NAMES[event.inhibit],
                value,
            )
        elif event.event_type == lay.EVENT_PROBE:
            was, now = lay.QUALITY_NAMES[event.state_from], lay.QUALITY_NAMES[event.state_to]
            row = ("probe", compiled.probe_ids[event.who], was, now, "", "", value)
        else:
            row = ("power", "panel", POWER[event.state_from], POWER[event.state_to], "", "", "")
        writer.writerow([when, *(safe_cell(cell) for cell in row)])
    return out.getvalue()
