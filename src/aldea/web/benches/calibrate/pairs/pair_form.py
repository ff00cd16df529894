"""The form that takes a pair: its template, what stands in it at first, how it is read."""

from collections.abc import Callable
from dataclasses import dataclass

from aldea.core.calibrate.pairs import Pair
from aldea.web.shell.forms import Fields


@dataclass(frozen=True, slots=True, kw_only=True)
class PairForm:
    """How a pair of one quantity is typed.

    `approaches` are how it may be used or come to, `media` what it may be taken with, `shapes` what
    the shapes in the drawings are. `read_pair` raises `InputError` at wrong fields.
    """

    quantity: str
    template: str
    example: str
    approaches: tuple[tuple[str, str], ...]
    shapes: tuple[str, ...]
    first: dict[str, str]
    media: tuple[tuple[str, str], ...]
    read_pair: Callable[[Fields], Pair]
