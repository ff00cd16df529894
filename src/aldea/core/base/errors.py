"""One tree of errors; each says where, what it got, what is allowed, and the fix."""

import re

QUOTES = "'\""
# How what may be there begins where it compares, or is taken from a list.
COMPARED = ("above ", "below ", "after ", "before ", "under ", "over ", "up to ", "at most ",
            "between ", "within ", "from ")  # fmt: skip
CHOSEN = ("one of ", "the id of ", "the one of ", "one that ")
EMPTY = frozenset({"", "nothing", "none", "none chosen", "''", '""', "None"})
# How `repr` writes what cannot be seen, a quote and the stroke itself.
ESCAPED = re.compile(r"\\(x[0-9a-f]{2}|u[0-9a-f]{4}|U[0-9a-f]{8}|[nrt'\"\\])")
FIGURE = re.compile(r"[-−+]?[0-9][0-9\u202f.,]*(e[-+]?[0-9]+)?( ?[^\s\d]{1,3}( [^\s\d]{1,3})?)?")


class AldeaError(Exception):
    """Something that a person can fix.

    Parameters
    ----------
    where : str
        Field, line or path at which it happened.
    got : str
        What was there.
    allowed : str
        What may be there.
    fix : str
        The next thing to do.
    text : str
        The whole of it as a person would say it; else it is put together.
    """

    def __init__(
        self, where: str, *, got: str = "", allowed: str = "", fix: str = "", text: str = ""
    ) -> None:
        self.where = where
        self.got = got
        self.allowed = allowed
        self.fix = fix
        self.text = text
        super().__init__(self.sentence)

    @property
    def sentence(self) -> str:
        """The whole message in one line."""
        if self.text:
            return self.text
        return f"{self.where}: {self.at_field}"

    @property
    def at_field(self) -> str:
        """The message without its where: what stands at the field that it is about."""
        return self.text or spoken(self.got, self.allowed, self.fix)


def spoken(got: str, allowed: str, fix: str = "") -> str:
    """A refusal as one imperative: what to enter or choose, and what was found instead.

    Parameters
    ----------
    got : str
        What was typed, in quotes (`repr`); a figure with its unit; a thing in words; or nothing.
    allowed : str
        What may be there.
    fix : str
        The next thing to do, a sentence.
    """
    if got in EMPTY:
        text = f"{imperative(allowed)}."
    elif got.endswith(" again"):
        text = f"{_in_quotes(got.removesuffix(' again'))} is already used. {imperative(allowed)}."
    elif got[0] in QUOTES or FIGURE.fullmatch(got):
        shown, wanted = _in_quotes(got), imperative(allowed)
        parts = set(",;:") & set(allowed)
        text = f"Found {shown}. {wanted}." if parts else f"{wanted}, not {shown}."
    elif got.startswith("no "):
        text = f"There is {got}; needed: {allowed}."
    else:
        text = f"Found {got}; needed: {allowed}."
    return f"{text} {fix}".strip()


def imperative(allowed: str) -> str:
    """What may be there as the thing to do: “Enter a value above 0”, “Choose one of a, b”."""
    if allowed.startswith(COMPARED):
        return f"Enter a value {allowed}"
    chosen = allowed.startswith(CHOSEN) or allowed.endswith((" of this house", " of this plan"))
    return f"{'Choose' if chosen else 'Enter'} {allowed}"


def _in_quotes(got: str) -> str:
    """What was typed as print sets it; what was cut ends in dots, what cannot be seen is �."""
    if not got or got[0] not in QUOTES:
        return got
    whole = len(got) > 1 and got[-1] == got[0]
    text = ESCAPED.sub(_as_seen, got[1:-1] if whole else got[1:].rstrip("\\"))
    return f"“{text}”" if whole else f"“{text}…”"


def _as_seen(escaped: re.Match[str]) -> str:
    sign = escaped[1]
    return sign if sign in "\\'\"" else " " if sign in "nrt" else "�"


class InputError(AldeaError):
    """A value typed or sent that cannot be used."""


class PlanError(InputError):
    """A plan document that is refused whole; `where` is the path inside the document."""


class LogFileError(InputError):
    """A reading log that cannot be read; `where` names line and column."""


class CalibrationError(InputError):
    """Pairs that do not carry a fit."""


class NotFoundError(AldeaError):
    """A thing asked for by name that is not there."""

    @property
    def sentence(self) -> str:
        """The whole message in one line; it begins with what was looked for."""
        if self.text:
            return self.text
        name = f" {_in_quotes(self.got)}" if self.got not in EMPTY else ""
        return (
            f"There is no {self.where}{name} here. {imperative(self.allowed)}. {self.fix}".strip()
        )


class NotAllowedError(AldeaError):
    """A thing this person's role does not let them do."""


class ConflictError(AldeaError):
    """Somebody else changed the same thing in between."""


class UnavailableError(AldeaError):
    """Something that Aldea needs does not answer now; asking again later may help."""


class SetUpError(AldeaError):
    """The machine, the folder or the database server is not as it must be."""
