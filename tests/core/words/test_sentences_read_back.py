"""A printed rule is the rule: random conditions, said, read back by another program, the same."""

from typing import Any

from hypothesis import example, given
from hypothesis import strategies as st
from tests.core.plans import one_band
from tests.core.words.sentence_reader import Reader

from aldea.core.plan import conditions as con
from aldea.core.plan.document import Load
from aldea.core.plan.house_rules import Doorway, Mode
from aldea.core.plan.schedules import Schedule, Window
from aldea.core.words.conditions import condition_words

BASE = one_band()
QUANTITIES = {
    "rh": "relative_humidity", "loft": "air_temperature", "yard": "air_temperature",
    "lux": "illuminance", "tape": "leak", "seen": "presence", "door": "position",
    "gas": "gas_hint",
}  # fmt: skip
PLAN = BASE.model_copy(
    update={
        "probes": tuple(
            BASE.probes[0].model_copy(
                update={"id": key, "name": f"{key.title()} probe", "quantity": quantity}
            )
            for key, quantity in QUANTITIES.items()
        ),
        "loads": (*BASE.loads, Load(id="lamp", name="Lamp", place="room", load_class="light")),
        "modes": (Mode(id="m", name="House mode", values=("home", "away")),),
        "schedules": (
            Schedule(id="night", name="Night", windows=(Window(start="22:30", end="07:00"),)),
        ),
        "doorways": (Doorway(id="way", name="Hall door", outer="seen", inner="door"),),
        "conditions": (con.NamedCondition(id="wet", name="Too wet", condition=con.Always()),),
    }
)
READER = Reader(PLAN)
NUMBERS = st.sampled_from([-20.0, -0.5, 0.0, 0.15, 4.0, 18.5, 62.0, 470.0])
STEPS = st.sampled_from([0.0, 0.25, 2.0, 6.0])
WAITS = st.sampled_from([0.25, 1.0, 20.0, 90.0, 300.0, 630.0, 5400.0, 86_399.0])
MAYBE = st.one_of(st.just(0.0), WAITS)
UNREAD: st.SearchStrategy[dict[str, Any]] = st.one_of(
    st.just({}),
    st.fixed_dictionaries(
        {"without_reading": st.sampled_from(["true", "false"]), "unchanged_for_s": MAYBE}
    ),
)
VALUE_PROBES = st.sampled_from(["rh", "loft", "lux"])


@st.composite
def on_value(draw: st.DrawFn) -> Any:
    """A condition on a value, of each kind."""
    probe, value, step, unread = draw(VALUE_PROBES), draw(NUMBERS), draw(STEPS), draw(UNREAD)
    kind = draw(st.sampled_from(["band", "beyond", "difference", "rate", "within", "dark"]))
    sign = draw(st.sampled_from([-1, 1]))
    if kind == "band":
        way: Any = "rising" if sign > 0 else "falling"
        return con.Band(
            probe=probe, direction=way, on_threshold=value,
            off_threshold=value - sign * (step or 1.0), delay_on_s=draw(MAYBE),
            delay_off_s=draw(MAYBE), **unread,
        )  # fmt: skip
    if kind == "beyond":
        side: Any = "above" if sign > 0 else "below"
        return con.Beyond(kind=side, probe=probe, value=value, hysteresis=step, **unread)
    if kind == "difference":
        return con.Difference(
            probe="loft", less="yard", on_threshold=value, off_threshold=value - sign * step,
            **unread,
        )  # fmt: skip
    if kind == "rate":
        return con.Rate(
            probe=probe, over_s=draw(WAITS), on_threshold=value, off_threshold=value - sign * step,
            **unread,
        )  # fmt: skip
    if kind == "within":
        ends = draw(st.sampled_from([(value, value + 5), (value, None), (None, value)]))
        return con.Within(probe=probe, low=ends[0], high=ends[1], **unread)
    lamp_lx = draw(st.sampled_from([None, 23.0]))
    return con.Dark(
        probe="lux", value=abs(value), hysteresis=step, lamp="lamp", lamp_lx=lamp_lx, **unread
    )


def leaves() -> st.SearchStrategy[Any]:
    """Conditions on one thing."""
    return st.one_of(
        on_value(),
        st.builds(con.Tape, probe=st.just("tape"), states=st.just(("wet", "short"))),
        st.builds(con.Contact, probe=st.just("door"), closed=st.booleans()),
        st.builds(con.Presence, probe=st.just("seen"), hold_s=st.one_of(st.none(), WAITS)),
        st.builds(con.Gas, probe=st.just("gas"), ratio=st.just(1.5)),
        st.builds(con.CountAbove, doorway=st.just("way"), value=st.sampled_from([0, 1, 2])),
        st.builds(con.InWindow, schedule=st.just("night")),
        st.builds(
            con.Sun, state=st.sampled_from(["up", "down"]),
            offset_min=st.sampled_from([-45.0, 0.0, 30.0]),
        ),
        st.builds(con.InMode, mode=st.just("m"), value=st.just("away")),
        st.builds(con.LoadState, load=st.just("fan"), state=st.sampled_from(["off", "any_on"])),
        st.builds(con.LoadState, load=st.just("fan"), level=st.just(2)),
        st.builds(
            con.QualityIs, probe=st.just("rh"),
            among=st.sampled_from([("good",), ("stale",), ("stuck", "range")]),
        ),
        st.just(con.ClockKnown()), st.just(con.Always()), st.just(con.Named(condition="wet")),
    )  # fmt: skip


def around(inner: st.SearchStrategy[Any]) -> st.SearchStrategy[Any]:
    """Conditions made of others."""
    members = st.lists(inner, min_size=2, max_size=3).map(tuple)
    return st.one_of(
        st.builds(con.Every, of=members),
        st.builds(con.Some, of=members),
        st.builds(con.Unless, of=inner),
        st.builds(con.Lasting, of=inner, on_s=WAITS, off_s=MAYBE),
        st.builds(con.Lasting, of=inner, on_s=st.just(0.0), off_s=WAITS),
        st.builds(con.Edge, of=inner, for_s=WAITS),
    )


def meaning(condition: Any) -> Any:
    """A condition without what only names it otherwise.

    A band is a threshold with its hysteresis, waits of its own are waits around it; whether a load
    is in any state above off is one question, however the plan asks it.
    """
    if isinstance(condition, con.Band):
        rising = condition.direction == "rising"
        kind: Any = "above" if rising else "below"
        made: Any = con.Beyond(
            kind=kind, probe=condition.probe, value=condition.on_threshold,
            hysteresis=abs(condition.on_threshold - condition.off_threshold),
            without_reading=condition.without_reading, unchanged_for_s=condition.unchanged_for_s,
        )  # fmt: skip
        if condition.delay_on_s or condition.delay_off_s:
            return con.Lasting(of=made, on_s=condition.delay_on_s, off_s=condition.delay_off_s)
        return made
    of = getattr(condition, "of", None)
    if of is None:
        return condition
    inner = tuple(meaning(one) for one in of) if isinstance(of, tuple) else meaning(of)
    return condition.model_copy(update={"of": inner})


@given(st.recursive(leaves(), around, max_leaves=6))
@example(con.Lasting(of=con.Every(of=(con.Always(), con.ClockKnown())), on_s=20.0, off_s=5.0))
@example(
    con.Lasting(
        of=con.Lasting(of=con.Named(condition="wet"), on_s=0.0, off_s=5.0), on_s=20.0, off_s=0.0
    )
)
@example(con.Edge(of=con.Contact(probe="door", closed=False), for_s=20.0))
def test_a_condition_that_is_said_and_read_back_is_the_same(condition):
    words = condition_words(PLAN, condition)
    assert READER.read(words) == meaning(condition), words
