"""One band with its timers, by every engine."""

from tests.core.engine.runs import ENGINES, replayed, switches
from tests.core.plans import one_band
from tests.reference_cases.cases import adaptor, given


@adaptor("hyst")
def hysteresis_with_timers(case):
    plan = one_band(
        direction="rising" if given(case, "mode") == "on_when_high" else "falling",
        on=float(given(case, "on_threshold")),
        off=float(given(case, "off_threshold")),
        delay_on_s=float(given(case, "delay_on")),
        delay_off_s=float(given(case, "delay_off")),
        min_on_s=float(given(case, "min_on")),
        min_off_s=float(given(case, "min_off")),
    )
    wanted = case["expected"]["transitions_event_driven"]["value"]
    for engine in ENGINES.values():
        run = replayed(plan, given(case, "samples"), end_s=given(case, "end"), **engine)
        assert [list(row) for row in switches(run)] == wanted
