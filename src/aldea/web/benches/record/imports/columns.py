"""Further columns of a log: the probe that each is for, an existing one or a new one."""

import re
from collections.abc import Mapping
from dataclasses import replace
from typing import get_args

from sqlalchemy import Connection

from aldea.core.base.errors import InputError
from aldea.core.base.quantities import QUANTITIES, Quantity
from aldea.core.plan.defaults import new_probe
from aldea.core.plan.document import Plan
from aldea.core.plan.edits import fresh_id, ids_of, put_part
from aldea.formats.log_options import LogOptions, number_columns
from aldea.formats.log_units import unit_in_log
from aldea.jobs.uploads import same_upload
from aldea.store.imports import ImportRun, begin_import
from aldea.web.shell.access import HouseAccess
from aldea.web.shell.drafts import edit_draft
from aldea.web.shell.state import AppState

NEW = "new:"
FIELD = "probe-"


def heads_of(rows: list[list[str]], options: LogOptions) -> list[str]:
    """The headings of a log's columns; none where it has no heading."""
    inside = 0 < options.header_rows <= len(rows)
    return [cell.strip() for cell in rows[options.header_rows - 1]] if inside else []


def chosen_columns(plan: Plan, run: ImportRun, typed: Mapping[str, str]) -> dict[int, str]:
    """The columns that are to be imported beside the first, each with its probe or `new:quantity`.

    Raises `InputError` for what is no probe of the house, or where two columns are for one.
    """
    wanted = {
        int(name.removeprefix(FIELD)): value
        for name, value in typed.items()
        if name.startswith(FIELD) and value and re.fullmatch(r"\d{1,4}", name.removeprefix(FIELD))
    }
    existing = [probe for probe in wanted.values() if not probe.startswith(NEW)]
    new_kinds = [probe.removeprefix(NEW) for probe in wanted.values() if probe.startswith(NEW)]
    if any(plan.probe(probe) is None for probe in existing) or not set(new_kinds) <= set(
        get_args(Quantity)
    ):
        raise InputError("columns", text="Choose a probe of this house for each column.")
    if len({run.probe, *existing}) < 1 + len(existing):
        raise InputError(
            "columns", text="Two columns are for one probe. Choose another for one of them."
        )
    return wanted


def with_new_probes(
    state: AppState,
    access: HouseAccess,
    run: ImportRun,
    wanted: dict[int, str],
    heads: list[str],
    version: int,
) -> dict[int, str]:
    """The same columns with the probes that had to be made for them, put into the draft."""
    if not any(probe.startswith(NEW) for probe in wanted.values()):
        return wanted
    columns = dict(wanted)

    def change(plan: Plan) -> Plan:
        first = plan.probe(run.probe)
        place = first.place if first else plan.places[0].id
        for column, choice in sorted(wanted.items()):
            if not choice.startswith(NEW):
                continue
            quantity: Quantity = choice.removeprefix(NEW)  # type: ignore[assignment]
            heading = heads[column] if column < len(heads) else ""
            name = _name(plan, heading or QUANTITIES[quantity].name)
            probe_id = fresh_id(name, ids_of(plan, "probe"))
            probe = new_probe(probe_id=probe_id, name=name, place=place, quantity=quantity)
            update = {"stage": "working"} | (
                {
                    "reading_interval_s": first.reading_interval_s,
                    "stale_after_s": first.stale_after_s,
                }
                if first
                else {}
            )
            plan = put_part(plan, "probe", probe.model_copy(update=update))
            columns[column] = probe_id
        return plan

    edit_draft(state, access, version, change, f"probes for the columns of {run.file_name}"[:120])
    return columns


def _name(plan: Plan, heading: str) -> str:
    """A heading as the name of a probe, told apart from the others."""
    plain = "".join(c if c.isprintable() else " " for c in heading).strip()[:70] or "Column"
    taken = {probe.name for probe in plan.probes}
    names = [plain, *(f"{plain} {n}" for n in range(2, len(taken) + 3))]
    return next(name for name in names if name not in taken)


def begin_columns(
    connection: Connection,
    state: AppState,
    access: HouseAccess,
    plan: Plan,
    run: ImportRun,
    wanted: dict[int, str],
    rows: list[list[str]],
) -> None:
    """An import of its own for each of the columns, read as the first one is."""
    numbers, heads = number_columns(rows, run.options), heads_of(rows, run.options)
    for column, probe_id in sorted(wanted.items()):
        decimal, middle = numbers.get(column, (run.options.decimal, None))
        probe = plan.probe(probe_id)
        heading = heads[column] if column < len(heads) else ""
        unit = unit_in_log(probe, heading, middle) if probe else ""
        new_id = begin_import(
            connection,
            access.house.id,
            by=access.account,
            probe=probe_id,
            file_name=run.file_name,
            size_bytes=run.size_bytes,
            options=replace(run.options, value_column=column, decimal=decimal, unit=unit),
            at_ms=access.now_ms,
            upload_of=run.upload_of or run.id,
        )
        same_upload(state.uploads, run.id, new_id)
