"""Benches that take what was recorded by hand and give a figure of the plan: one module a kind."""

from aldea.web.trials.air import AIR
from aldea.web.trials.base import Trial
from aldea.web.trials.gas import GAS
from aldea.web.trials.light import LIGHT, PHOTODIODE
from aldea.web.trials.panel import ADDRESSES, MULTIPLEXER
from aldea.web.trials.position import CONTACT, DISTANCE
from aldea.web.trials.presence import DOORWAY, HOLD

TRIALS: dict[str, Trial] = {
    trial.key: trial
    for trial in (
        HOLD,
        DOORWAY,
        DISTANCE,
        CONTACT,
        LIGHT,
        PHOTODIODE,
        GAS,
        AIR,
        MULTIPLEXER,
        ADDRESSES,
    )
}
