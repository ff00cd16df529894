"""Every quantity that can be calibrated, with its method."""

from aldea.core.calibrate.methods.humidity import HUMIDITY
from aldea.core.calibrate.methods.method import Method
from aldea.core.calibrate.methods.thermometer import THERMOMETER

METHODS: dict[str, Method] = {method.quantity: method for method in (HUMIDITY, THERMOMETER)}
