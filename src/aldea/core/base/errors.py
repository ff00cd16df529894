"""One tree of errors; each says where, what it got, what is allowed, and the mend."""


class AldeaError(Exception):
    """Something that a person can mend.

    Parameters
    ----------
    where : str
        Field, line or path at which it happened.
    got : str
        What was there.
    allowed : str
        What may be there.
    mend : str
        The next thing to do.
    said : str
        The whole of it as a person would say it; else it is put together.
    """

    def __init__(
        self, where: str, *, got: str, allowed: str, mend: str = "", said: str = ""
    ) -> None:
        self.where = where
        self.got = got
        self.allowed = allowed
        self.mend = mend
        self.said = said
        super().__init__(self.sentence)

    @property
    def sentence(self) -> str:
        """The whole message in one line."""
        if self.said:
            return self.said
        text = f"{self.where}: got {self.got}; allowed: {self.allowed}."
        return f"{text} {self.mend}".strip()


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


class NotAllowedError(AldeaError):
    """A thing this person's role does not let them do."""


class ConflictError(AldeaError):
    """Somebody else changed the same thing in between."""


class UnavailableError(AldeaError):
    """Something that Aldea needs does not answer now; asking again later may help."""


class SetUpError(AldeaError):
    """The machine, the folder or the database server is not as it must be."""
