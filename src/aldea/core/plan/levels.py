"""Steps of a fan and patterns of an indicator: which a load has, and which a rule may want."""

from aldea.core.plan.document import Load


def steps_of(load: Load) -> tuple[int, ...]:
    """By step of a fan as it is written down, from 1: the state it is; 0 where none reaches it."""
    if load.stepped is None:
        return (1,)
    numbers: list[int] = []
    for step in load.stepped.steps:
        reached = load.stepped.reachable(step)
        numbers.append(max(numbers, default=0) + 1 if reached else 0)
    return tuple(numbers)


def levels_of(load: Load, want: str) -> tuple[int, ...]:
    """The steps, or the patterns, that may be wanted of a load."""
    if want == "pattern":
        count = len(load.pattern.all_parts_s) if load.pattern is not None else 0
        return tuple(range(1, count + 1))
    return tuple(number for number, state in enumerate(steps_of(load), 1) if state)


def levels_in_words(load: Load, want: str) -> str:
    """The same for a refusal: “steps: 1, 2, 3”."""
    numbers = ", ".join(str(number) for number in levels_of(load, want)) or "none"
    return f"{'patterns' if want == 'pattern' else 'steps that it can take'}: {numbers}"
