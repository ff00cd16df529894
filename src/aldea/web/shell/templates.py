"""The templates: where they lie and what they may call; one environment for all that is drawn."""

from collections.abc import Hashable, Sequence
from functools import cache
from itertools import groupby
from pathlib import Path

from fastapi.templating import Jinja2Templates
from jinja2 import (
    ChoiceLoader,
    Environment,
    FileSystemLoader,
    PrefixLoader,
    StrictUndefined,
    select_autoescape,
)
from markupsafe import Markup

from aldea.core.base.bounded import BoundedCache
from aldea.core.base.figures import as_typed, figure, ohms, short, signed, thousands
from aldea.core.base.instants import span, stamp
from aldea.core.calibrate.uncertainty_budget import GROUND_WORDS
from aldea.core.words.methods import computed_at
from aldea.core.words.priorities import priority_words
from aldea.web.shell.bench import Bench, Key, doorways
from aldea.web.shell.finding_place import finding_place
from aldea.web.shell.timeline import Timeline

FOLDER = Path(__file__).parent / "templates"
MOST_DRAWN_BYTES = 8_000_000
BYTES_A_LETTER = 4  # with the value that it was drawn of
COMMON_KEYS = (
    Key(key=", and .", does="previous and next change of the load on the timeline"),
    Key(key="< and >", does="one hour back, one hour on"),
    Key(key="Home", does="the scrubber to now"),
    Key(key="[ and ]", does="a shorter or a longer span"),
    Key(key="R", does="fold or open the timeline"),
    Key(key="arrows", does="the scrubber by a minute, with Shift by ten"),
    Key(key="/", does="search for a part, a rule, a pin or a page"),
    Key(key="D", does="light or dark"),
    Key(key="Ctrl Enter", does="save, from within a field"),
    Key(key="Escape", does="leave a field"),
    Key(key="?", does="this list"),
)


def ground_words(ground: str) -> str:
    """What a row of an uncertainty budget rests on, as people read it."""
    return GROUND_WORDS.get(ground, ground)


def make_environment() -> Environment:
    """The environment with the shell's own templates; benches bring theirs."""
    environment = Environment(
        loader=FileSystemLoader(FOLDER),
        autoescape=select_autoescape(("html", "svg")),
        undefined=StrictUndefined,
        trim_blocks=True,
        lstrip_blocks=True,
    )
    environment.globals["swap"] = ""  # an answer sets it: each part takes the place of its own
    environment.globals["finding_place"] = finding_place
    environment.globals["computed_at"] = computed_at
    environment.filters.update(
        figure=figure,
        signed=signed,
        short=short,
        as_typed=as_typed,
        ohms=ohms,
        span=span,
        stamp=stamp,
        thousands=thousands,
        priority_words=priority_words,
        ground=ground_words,
    )
    return environment


templates = Jinja2Templates(env=make_environment())


def timeline_drawn(timeline: Timeline, swap: str) -> Markup:
    """A timeline as a page shows it; drawn once."""
    markup = timeline.drawn.get(swap)
    if markup is None:
        text = templates.env.get_template("timeline.html").render(timeline=timeline, swap=swap)
        markup = timeline.drawn[swap] = Markup(text)  # noqa: S704  it was escaped as it was drawn
    return markup


_drawn: BoundedCache[Markup] = BoundedCache(MOST_DRAWN_BYTES)


def drawn_once(template: str, macro: str, value: Hashable) -> Markup:
    """What a macro draws of one value that never changes, drawn anew only when it is another."""
    key = (template, macro, value)
    markup = _drawn.get(key)
    if markup is None:
        module = templates.env.get_template(template).module
        markup = getattr(module, macro)(value)
        _drawn.put(key, markup, BYTES_A_LETTER * len(markup))
    return markup


templates.env.globals["timeline_drawn"] = timeline_drawn
templates.env.globals["drawn_once"] = drawn_once


@cache
def _loader(folders: tuple[tuple[str, Path], ...]) -> ChoiceLoader:
    # The environment keeps what it compiled by its loader: a second application finds it there.
    own = PrefixLoader({key: FileSystemLoader(folder) for key, folder in folders})
    return ChoiceLoader([FileSystemLoader(FOLDER), own])


def use_benches(benches: Sequence[Bench]) -> None:
    """Take the benches' templates, doorways and keys from their registry; called once at start."""
    environment = templates.env
    environment.loader = _loader(tuple((bench.key, bench.folder) for bench in benches))
    environment.globals["doorways"] = doorways(benches)
    environment.globals["keys"] = listed_keys(benches)


def listed_keys(benches: Sequence[Bench]) -> tuple[Key, ...]:
    """Every key: those of the doorways, those of all benches, those of some with their names."""
    digits = " ".join(door.digit for door in doorways(benches))
    own = [(key.key, key.does, bench.name) for bench in benches for key in bench.keys]
    own.sort(key=lambda row: row[:2])
    listed = [
        Key(key=key, does=f"{does} ({', '.join(name for *_, name in rows)})")
        for (key, does), rows in groupby(own, key=lambda row: row[:2])
    ]
    return (Key(key=digits, does="the benches"), *COMMON_KEYS[:-4], *listed, *COMMON_KEYS[-4:])
