"""Every quantity whose pairs can be typed."""

from aldea.web.benches.calibrate.pairs.humidity import HUMIDITY_FORM
from aldea.web.benches.calibrate.pairs.pair_form import PairForm
from aldea.web.benches.calibrate.pairs.thermometer import THERMOMETER_FORM

PAIR_FORMS: dict[str, PairForm] = {
    form.quantity: form for form in (HUMIDITY_FORM, THERMOMETER_FORM)
}
