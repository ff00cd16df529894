"""`aldea replay`: a plan file and a log in, events out, the same as on the page."""

import sys
from datetime import datetime
from pathlib import Path

from aldea.core.base.errors import InputError
from aldea.core.base.instants import ms_of
from aldea.core.engine.compiled_plan import compile_plan
from aldea.core.engine.replay import run_replay
from aldea.core.plan.document import Plan, Probe
from aldea.core.plan.text import read_plan
from aldea.core.rehearse.rehearsal import merged_samples
from aldea.formats.csv_log import read_csv_log
from aldea.formats.events_csv import events_csv
from aldea.formats.log_options import HEAD_BYTES, guess_options


def _readable(path: Path) -> Path:
    if not path.is_file():
        raise InputError(str(path), got="no such file", allowed="a file that can be read")
    return path


def _probe_of(plan: Plan, wanted: str) -> Probe:
    compiled = compile_plan(plan)
    if wanted:
        found = plan.probe(wanted)
        if found is None or wanted not in compiled.probe_ids:
            raise InputError(
                "--probe", got=repr(wanted), allowed=", ".join(compiled.probe_ids) or "none"
            )
        return found
    if len(compiled.probe_ids) != 1:
        raise InputError(
            "--probe", got="nothing", allowed=" or ".join(compiled.probe_ids) or "a plan with bands"
        )
    found = plan.probe(compiled.probe_ids[0])
    if found is None:
        raise AssertionError
    return found


def _end_ms(last: str, last_reading_ms: int) -> int:
    if not last:
        return last_reading_ms
    try:
        moment = datetime.fromisoformat(last)
    except ValueError as exc:
        raise InputError("--last", got=repr(last), allowed="2025-11-13T18:42:00Z") from exc
    if moment.tzinfo is None:
        raise InputError("--last", got=repr(last), allowed="a time with Z or an offset")
    return ms_of(moment)


def replay_files(
    plan_path: Path,
    log_path: Path,
    *,
    out: Path | None,
    probe: str,
    zone: str,
    plain: bool,
    last: str,
) -> None:
    """Replay a log through a plan and write its events."""
    plan = read_plan(_readable(plan_path).read_bytes())
    read = _probe_of(plan, probe)
    with _readable(log_path).open("rb") as source:
        options = guess_options(source.read(HEAD_BYTES), zone or plan.house.time_zone)
    trace, report = read_csv_log(log_path, options, read.range)
    compiled = compile_plan(plan)
    start_ms = report.first_ms - report.first_ms % plan.scan_period_ms
    run = run_replay(
        compiled,
        merged_samples(compiled, {read.id: trace}),
        start_ms=start_ms,
        end_ms=max(_end_ms(last, report.last_ms), start_ms + plan.scan_period_ms),
        in_python=plain,
    )
    text = events_csv(run)
    if out is None:
        sys.stdout.write(text)
        return
    out.write_text(text, encoding="utf-8")
    print(f"aldea: {report.readings} readings, {len(run.rows)} events to {out}", file=sys.stderr)
