"""Several words in a row, as a sentence has them."""

from collections.abc import Sequence


def listed(words: Sequence[str]) -> str:
    """Words with commas, and “and” before the last."""
    return _with_last(words, "and")


def any_of(words: Sequence[str]) -> str:
    """Words with commas, and “or” before the last: “damp, wet or short”."""
    return _with_last(words, "or")


def _with_last(words: Sequence[str], sign: str) -> str:
    if len(words) < 2:
        return "".join(words)
    return f"{', '.join(words[:-1])} {sign} {words[-1]}"
