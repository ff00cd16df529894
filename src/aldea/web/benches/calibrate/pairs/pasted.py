"""Many pairs at once, pasted from a spreadsheet: each line is read like one pair that was typed."""

from aldea.core.base.errors import InputError
from aldea.core.calibrate.pairs import Pair
from aldea.formats.pasted import MOST_LINES, read_pasted, read_rows
from aldea.web.benches.calibrate.pairs.pair_form import PairForm
from aldea.web.shell.forms import Fields

MOST_TEXT = 20_000
TWO_COLUMNS = {"beside", "check"}


def pasted_pairs(form: PairForm, fields: Fields) -> tuple[Pair, ...]:
    """Every line as a pair with what else stands in the form.

    Reference and reading where the reference is typed (beside, or a check instrument), else
    readings alone. Raises `InputError` that names the line; nothing is half-taken.
    """
    text = fields.text("pasted", most=MOST_TEXT)
    fields.check()
    both = fields.sent.get("medium") in TWO_COLUMNS or (
        fields.sent.get("approach") in TWO_COLUMNS and "temp_degc" in fields.sent
    )
    if both:
        rows = [{"reference": f"{a!r}", "reading": f"{b!r}"} for a, b in read_pasted(text)]
    else:
        rows = [{"reading": f"{row[0]!r}"} for row in read_rows(text) if len(row) == 1]
        if text and not rows:
            raise InputError(
                "pasted",
                got="more than one number a line",
                allowed="readings alone, one a line",
                fix="The reference is known here; to paste it too, choose a reference beside it.",
            )
    if not 1 <= len(rows) <= MOST_LINES:
        raise InputError("pasted", got=f"{len(rows)} lines", allowed=f"1 to {MOST_LINES}")
    pairs = []
    for number, row in enumerate(rows, 1):
        line = Fields({**fields.sent, **row})
        try:
            pairs.append(form.read_pair(line))
        except InputError as exc:
            name, refusal = next(iter(line.errors.items()), ("pasted", exc.sentence))
            at = "pasted" if name in ("reading", "reference") else name
            where = f"Line {number}: " if at == "pasted" else ""
            fields.errors.setdefault(at, f"{where}{refusal}")
            raise
    return tuple(pairs)
