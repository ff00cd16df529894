"""Lines of C: comments, and lines that are no longer than a page is wide."""

import textwrap

WIDTH = 100


def block_comment(words: str, indent: str = "") -> list[str]:
    """Words as a comment."""
    lines = [
        line
        for paragraph in words.replace("*/", "* /").split("\n\n")
        for line in [*textwrap.wrap(" ".join(paragraph.split()), WIDTH - 6 - len(indent)), ""]
    ][:-1]
    if not lines:
        return []
    if len(lines) == 1:
        return [f"{indent}/* {lines[0]} */"]
    rest = [f"{indent}   {line}".rstrip() for line in lines[1:]]
    return [f"{indent}/* {lines[0]}", *rest[:-1], f"{rest[-1]} */"]


def wrapped(line: str) -> list[str]:
    """A line of code, broken behind a comma or before a sign where it is too long."""
    if len(line) <= WIDTH:
        return [line]
    code, mark, comment = line.partition(" /* ")
    pad = " " * (len(line) - len(line.lstrip()))
    if mark and len(code) <= WIDTH:
        return [f"{pad}/* {comment}", code]
    for sign, behind in (
        (" && ", False),
        (" || ", False),
        (", ", True),
        (" ? ", False),
        (" = ", True),
    ):
        at = line.rfind(sign, len(pad) + 8, WIDTH - 2)
        if at > 0:
            cut = at + (len(sign) - 1 if behind else 0)
            return [line[:cut].rstrip(), *wrapped(f"{pad}    {line[cut:].lstrip()}")]
    return [line]
