"""Pairs taken at the bench, and certificates."""

import hashlib
import json
from collections.abc import Callable, Collection, Sequence
from dataclasses import dataclass
from typing import Any, get_args

from sqlalchemy import Connection, Row, func, insert, select, update

from aldea.core.base.errors import ConflictError, InputError, NotFoundError
from aldea.core.base.figures import figure, short
from aldea.core.calibrate.methods.registry import METHODS
from aldea.core.calibrate.pairs import Approach, Pair, TakenPair
from aldea.core.plan.document import Plan
from aldea.store import tables as t
from aldea.store.accounts import Account
from aldea.store.drafts import keep_change, lock_draft, read_draft
from aldea.store.houses import add_log_entry


@dataclass(frozen=True, slots=True, kw_only=True)
class Certificate:
    """A signed certificate; `document` is what was signed."""

    number: int
    probe: str
    document: dict[str, Any]
    sha256: str
    signed_by: str
    at_ms: int
    due_ms: int


def take_pair(
    connection: Connection, house_id: int, probe: str, pair: Pair, *, by: Account, at_ms: int
) -> int:
    """Write a pair down; returns its number."""
    if pair.approach not in get_args(Approach):
        raise InputError(
            "approach", got=repr(pair.approach), allowed="one of " + ", ".join(get_args(Approach))
        )
    number: int = connection.execute(
        insert(t.calibration_pair)
        .values(
            house_id=house_id,
            probe=probe,
            medium=pair.medium,
            approach=pair.approach,
            temp_degc=pair.temp_degc,
            reference=pair.reference,
            reference_expanded=pair.reference_expanded,
            reading=pair.reading,
            detail=pair.detail,
            taken_by=by.id,
            taken_ms=at_ms,
        )
        .returning(t.calibration_pair.c.id)
    ).scalar_one()
    return number


def open_pairs(connection: Connection, house_id: int, probe: str) -> list[TakenPair]:
    """Pairs taken since the last certificate and not withdrawn, in the order taken."""
    table = t.calibration_pair
    rows = connection.execute(
        select(table, t.account.c.name)
        .join_from(table, t.account)
        .where(
            table.c.house_id == house_id,
            table.c.probe == probe,
            table.c.withdrawn_ms.is_(None),
            table.c.certificate.is_(None),
        )
        .order_by(table.c.id)
    ).all()
    return [
        TakenPair(id=row.id, pair=_pair_from_row(row), by=row.name, taken_ms=row.taken_ms)
        for row in rows
    ]


def set_withdrawn(
    connection: Connection, house_id: int, pair_id: int, *, at_ms: int | None
) -> None:
    """Withdraw a pair that no certificate rests on, or (None) take that back."""
    table = t.calibration_pair
    done = connection.execute(
        update(table)
        .where(table.c.house_id == house_id, table.c.id == pair_id, table.c.certificate.is_(None))
        .values(withdrawn_ms=at_ms)
    )
    if done.rowcount == 0:
        raise NotFoundError(
            "pair", got=str(pair_id), allowed="a pair of this bench that is not signed"
        )


class PairsMovedError(ConflictError):
    """What would be signed is not what was shown: pairs were taken or withdrawn since."""

    def __init__(self, shown: Collection[int], there: Sequence[TakenPair]) -> None:
        taken = [row for row in there if row.id not in shown]
        gone = len(set(shown) - {row.id for row in there})
        words = [
            f"a pair of {short(row.pair.reading)} that {row.by} recorded since" for row in taken
        ]
        if gone:
            words.append(f"{gone} pair{'' if gone == 1 else 's'} withdrawn or signed since")
        super().__init__(
            "pairs",
            text=f"The pairs are not those that were shown: {' and '.join(words)}. Check the fit "
            f"as it is now, then sign it.",
        )


def check_shown_pairs(shown: Collection[int], there: Sequence[TakenPair]) -> None:
    """Raise `PairsMovedError` where the open pairs are not those that a person was shown."""
    if set(shown) != {row.id for row in there}:
        raise PairsMovedError(shown, there)


def sign(
    connection: Connection,
    house_id: int,
    probe: str,
    document: dict[str, Any],
    calibrate: Callable[[Plan, int], Plan],
    *,
    taken: Sequence[TakenPair],
    version_read: int,
    by: Account,
    at_ms: int,
    due_ms: int,
) -> Certificate:
    """Store a certificate, bind the pairs that it rests on, and put its line into the draft.

    `calibrate` makes the plan with the certificate of that number. All of it or nothing: raises
    `PairsMovedError` where a pair was withdrawn or signed in between, `DraftMovedError` where
    somebody changed the same probe since `version_read`.
    """
    lock_draft(connection, house_id)
    number = next_number(connection, house_id, read_draft(connection, house_id).plan)
    text = json.dumps({**document, "certificate": number}, ensure_ascii=False, sort_keys=True)
    connection.execute(
        insert(t.certificate).values(
            house_id=house_id,
            number=number,
            probe=probe,
            document=text,
            sha256=hashlib.sha256(text.encode()).hexdigest(),
            signed_by=by.id,
            at_ms=at_ms,
            due_ms=due_ms,
        )
    )
    pair = t.calibration_pair
    bound = connection.execute(
        update(pair)
        .where(
            pair.c.id.in_([row.id for row in taken]),
            pair.c.house_id == house_id,
            pair.c.probe == probe,
            pair.c.certificate.is_(None),
            pair.c.withdrawn_ms.is_(None),
        )
        .values(certificate=number)
    )
    if bound.rowcount != len(taken):
        raise PairsMovedError([row.id for row in taken], open_pairs(connection, house_id, probe))
    keep_change(
        connection,
        house_id,
        lambda plan: calibrate(plan, number),
        version_read=version_read,
        by=by,
        at_ms=at_ms,
        what=f"certificate {number}",
    )
    add_log_entry(
        connection, house_id, account=by, at_ms=at_ms, what=_signed_words(document, number)
    )
    return certificate(connection, house_id, number)


def _signed_words(document: dict[str, Any], number: int) -> str:
    probe, despite = document["probe"], document.get("signed_despite")
    promised = figure(document["expanded_uncertainty"], METHODS[probe["quantity"]].places)
    words = f"Certificate {number} signed for {probe['name']}: ±{promised} {document['unit']} (k=2)"
    reason = f" Signed despite {despite['what']}: {despite['why']}" if despite else ""
    return f"{words}, applied to the draft.{reason}"


def next_number(connection: Connection, house_id: int, plan: Plan) -> int:
    """The number that the next certificate will have.

    A plan file may have brought numbers of another house along: those are not used again.
    """
    cited = [probe.calibration.certificate or 0 for probe in plan.probes]
    newest = connection.scalar(
        select(func.max(t.certificate.c.number)).where(t.certificate.c.house_id == house_id)
    )
    return max([newest or 0, *cited]) + 1


def certificate(connection: Connection, house_id: int, number: int) -> Certificate:
    """One certificate by its number."""
    rows = [c for c in certificates(connection, house_id) if c.number == number]
    if not rows:
        raise NotFoundError("certificate", got=str(number), allowed="one of this house")
    return rows[0]


def certificates(connection: Connection, house_id: int) -> list[Certificate]:
    """All certificates of a house, newest first."""
    rows = connection.execute(
        select(t.certificate, t.account.c.name)
        .join_from(t.certificate, t.account)
        .where(t.certificate.c.house_id == house_id)
        .order_by(t.certificate.c.number.desc())
    ).all()
    return [
        Certificate(
            number=row.number,
            probe=row.probe,
            document=_in_any_unit(json.loads(row.document)),
            sha256=row.sha256,
            signed_by=row.name,
            at_ms=row.at_ms,
            due_ms=row.due_ms,
        )
        for row in rows
    ]


def _in_any_unit(document: dict[str, Any]) -> dict[str, Any]:
    """A certificate of the first format, which knew humidity only, read like the second.

    What was signed, and its SHA-256, stay as they are in the record.
    """
    if document["format"] != "aldea-certificate/1":
        return document
    pairs = [
        {
            **{key: value for key, value in pair.items() if not key.endswith("_rh_pct")},
            "medium": pair["salt"],
            "detail": "",
            **{key: pair[f"{key}_rh_pct"] for key in ("reference", "reading", "residual")},
        }
        for pair in document["pairs"]
    ]
    budget = [
        {**row, "standard_uncertainty": row["standard_uncertainty_rh_pct"]}
        for row in document["budget"]
    ]
    return {
        **document,
        "unit": "%RH",
        "expanded_uncertainty": document["expanded_uncertainty_rh_pct"],
        "range": document["range_rh_pct"],
        "pairs": pairs,
        "budget": budget,
    }


def _pair_from_row(row: Row[Any]) -> Pair:
    return Pair(
        reference=row.reference,
        reading=row.reading,
        approach=row.approach,
        temp_degc=row.temp_degc,
        reference_expanded=row.reference_expanded,
        medium=row.medium,
        detail=row.detail,
    )
