"""Numbers of conductors and terminals: given once, kept through edits, freed by a new issue."""

from dataclasses import dataclass

from aldea.core.base.memo import per_plan
from aldea.core.plan.document import Plan
from aldea.core.plan.panel import IssuedConductor, NumberGiven, SheetIssue
from aldea.core.wiring.conductors import conductor_keys, conductors
from aldea.core.wiring.terminals import terminal_numbers


@dataclass(frozen=True, slots=True, kw_only=True)
class SheetChange:
    """What became of a conductor since the sheet was issued."""

    number: str
    words: str


@per_plan
def numbers_in_use(plan: Plan) -> dict[str, str]:
    """The number of every conductor below mains, and of every terminal, by its key."""
    low = [wire for wire in conductors(plan) if wire.net == "ELV"]
    keys = conductor_keys(low)
    return {
        **{key: wire.number for key, wire in zip(keys, low, strict=True)},
        **{key: str(number) for key, number in terminal_numbers(plan).items()},
    }


def with_numbers(before: Plan, after: Plan) -> Plan:
    """A changed plan in which every conductor that was there keeps its number.

    Numbers of conductors that are gone are kept too, so that no other gets them; a plan that was
    issued anew stays as it is.
    """
    if after == before or after.sheet != before.sheet:
        return after
    kept = {row.id: row.number for row in after.numbers} | numbers_in_use(before)
    rows = tuple(NumberGiven(id=key, number=number) for key, number in sorted(kept.items()))
    return after.model_copy(update={"numbers": rows})


def issued(plan: Plan) -> Plan:
    """The sheet issued anew: it shows what is, and numbers of what is gone are free again."""
    kept = numbers_in_use(plan)
    number = plan.sheet.number + 1 if plan.sheet else 1
    wires = conductors(plan)
    return plan.model_copy(
        update={
            "numbers": tuple(NumberGiven(id=key, number=kept[key]) for key in sorted(kept)),
            "sheet": SheetIssue(
                number=number,
                conductors=tuple(
                    IssuedConductor(id=key, number=wire.number, start=wire.start, end=wire.end)
                    for key, wire in zip(conductor_keys(wires), wires, strict=True)
                ),
            ),
        }
    )


@per_plan
def since_issue(plan: Plan) -> tuple[SheetChange, ...]:
    """Conductors added, gone, or ending elsewhere since the sheet was issued; none before that."""
    if plan.sheet is None:
        return ()
    was = {row.id: row for row in plan.sheet.conductors}
    wires = conductors(plan)
    now = dict(zip(conductor_keys(wires), wires, strict=True))
    rows: list[SheetChange] = []
    for key, wire in now.items():
        old = was.get(key)
        if old is None:
            rows.append(SheetChange(number=wire.number, words=f"new: {wire.start} to {wire.end}"))
        elif (old.start, old.end) != (wire.start, wire.end):
            words = f"now {wire.start} to {wire.end}, was {old.start} to {old.end}"
            rows.append(SheetChange(number=wire.number, words=words))
    rows += [
        SheetChange(number=old.number, words=f"gone: {old.start} to {old.end}")
        for key, old in was.items()
        if key not in now
    ]
    return tuple(rows)
