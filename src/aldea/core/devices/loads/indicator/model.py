"""An indicator lamp or a sounder: its pattern."""

from aldea.core.base.parts import Part, Seconds
from aldea.core.devices.loads.facts import LoadFacts


class Pattern(Part):
    """How a lamp or a sounder shows itself: seconds on, seconds off, again and again."""

    on_s: Seconds = 0.5
    off_s: Seconds = 0.5


INDICATOR = LoadFacts(
    kind="indicator",
    name="indicator lamp",
    usual_class="light",
    usual_nature="lamp",
    figures="pattern",
    model=Pattern,
)
SOUNDER = LoadFacts(
    kind="sounder",
    name="sounder",
    usual_class="light",
    usual_nature="lamp",
    figures="pattern",
    model=Pattern,
)
