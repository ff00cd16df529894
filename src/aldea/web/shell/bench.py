"""A bench's entry in the registry: where it stands, its keys, its pages, its folder."""

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Literal

from fastapi import APIRouter

Part = Literal["house", "place", "measure", "rule", "trial", "make", "keep"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Key:
    """A key and what it does, as the list of keys says it."""

    key: str
    does: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Bench:
    """One bench, from which navigation, keys, templates, scripts and tests follow.

    `folder` holds its templates and scripts. `digit` is its key; without one it is in no
    navigation. `path` stands below the house. `part` of the work parts the navigation. `on_phone`
    is said on a phone by a bench that is made for a wider screen. `keys` are its own. `views` are
    addresses worth looking at in the demo house, below the house unless they begin with two
    slashes: the browser tests go through them.
    """

    key: str
    folder: Path
    routers: tuple[APIRouter, ...]
    name: str = ""
    digit: str = ""
    path: str = ""
    part: Part = "house"
    on_phone: str = ""
    keys: tuple[Key, ...] = ()
    views: tuple[str, ...] = ()

    @property
    def scripts(self) -> dict[str, Path]:
        """Its scripts by the name under which they are served."""
        return {path.name: path for path in sorted(self.folder.rglob("*.js"))}


@dataclass(frozen=True, slots=True, kw_only=True)
class Doorway:
    """A bench in the navigation; `parted` where another part of the work begins."""

    key: str
    digit: str
    name: str
    path: str
    parted: bool
    on_phone: str


def doorways(benches: Sequence[Bench]) -> tuple[Doorway, ...]:
    """The navigation, in the order of the registry."""
    shown = [bench for bench in benches if bench.digit]
    return tuple(
        Doorway(
            key=bench.key,
            digit=bench.digit,
            name=bench.name,
            path=bench.path,
            parted=index > 0 and bench.part != shown[index - 1].part,
            on_phone=bench.on_phone,
        )
        for index, bench in enumerate(shown)
    )
