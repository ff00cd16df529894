"""The window of the timeline: what an address may ask for."""

from hypothesis import given
from hypothesis import strategies as st

from aldea.demo.recorded import END_MS
from aldea.web.shell.window import HOUR_MS, Window, window_of

odd = st.one_of(st.none(), st.integers(-(10**15), 10**15))


@given(hours=st.one_of(st.none(), st.floats(-5, 1e6)), end=odd, at=odd, first=odd)
def test_a_window_is_always_whole_and_holds_the_scrubber(hours, end, at, first):
    """Whatever an address asks for: not past now, from one hour to a month, scrubber inside."""
    window = window_of(now_ms=END_MS, hours=hours, end_ms=end, at_ms=at, first_ms=first)
    assert window.start_ms < window.end_ms <= END_MS
    assert 1 <= window.hours <= 744
    assert window.start_ms <= window.at_ms <= window.end_ms


def window(hours: float, end_ms: int = END_MS) -> Window:
    return Window(
        start_ms=end_ms - round(hours * HOUR_MS), end_ms=end_ms, at_ms=end_ms, now_ms=END_MS
    )
