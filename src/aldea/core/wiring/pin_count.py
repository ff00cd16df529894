"""Whether there can be pins enough: counted, before anything is tried."""

from collections import Counter
from collections.abc import Iterable, Sequence
from itertools import combinations

from aldea.core.base.errors import InputError
from aldea.core.devices.signal import Signal
from aldea.core.plan.board_types import board_types
from aldea.core.plan.document import Plan
from aldea.core.wiring.candidates import Slot, unfit

FEW = 40  # so many are better answered by the wishes that exclude each other, one by one
MOST_KINDS = 10  # of lines, whose unions are counted too

Kind = tuple[frozenset[str], str]
"""What lines of one kind need of a pin, and the one board that they are for, or an empty word."""


def refuse_too_few_pins(
    plan: Plan, open_signals: Sequence[Signal], free: Sequence[Slot], *, few: int = FEW
) -> None:
    """Refuse a panel of which counting alone shows that it cannot be.

    Lines of some kinds can only sit on pins that serve one of these kinds; where there are more
    lines than such pins no dealing helps (the condition of Hall's theorem of 1935, which is
    necessary). Bus lines share pins and are not counted. Raises `InputError` with the two counts
    where more than `few` lines are concerned.
    """
    boards, types = {board.id: board for board in plan.boards}, board_types(plan)
    samples: dict[Kind, Signal] = {}
    wanted: Counter[Kind] = Counter()
    for signal in open_signals:
        if not signal.share:
            kind = (signal.needs, signal.only_board)
            samples.setdefault(kind, signal)
            wanted[kind] += 1
    able = {
        kind: {
            index
            for index, slot in enumerate(free)
            if not slot.held_for and not unfit(slot, boards[slot.board], types, sample)
        }
        for kind, sample in samples.items()
    }
    for kinds in _unions(list(samples)):
        lines = sum(wanted[kind] for kind in kinds)
        slots = set().union(*(able[kind] for kind in kinds))
        pins = sum(len(free[index].pins) for index in slots)
        if lines > max(pins, few):
            needs = sorted({" and ".join(sorted(kind[0])).replace("_", " ") for kind in kinds})
            raise InputError(
                "pins",
                got=f"{lines} lines for {pins} pins",
                allowed="a pin for each",
                text=f"{lines} lines without a pin need one that can do {' or '.join(needs)}; "
                f"{pins} free pins can. Add boards or expanders with {lines - pins} more such "
                "pins, or remove as many lines.",
            )


def _unions(kinds: list[Kind]) -> Iterable[tuple[Kind, ...]]:
    """Sets of kinds, the small ones first: the plainest sentence is the one that is said."""
    sizes = range(1, len(kinds) + 1) if len(kinds) <= MOST_KINDS else (1, len(kinds))
    return (some for size in sizes for some in combinations(kinds, size))
