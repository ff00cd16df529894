"""What differs from kind to kind of probe at the Calibrate bench; all else is one way."""

from aldea.web.kinds.base import Kind
from aldea.web.kinds.humidity import HUMIDITY
from aldea.web.kinds.thermometer import THERMOMETER

KINDS: dict[str, Kind] = {kind.quantity: kind for kind in (HUMIDITY, THERMOMETER)}
