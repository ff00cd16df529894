"""Benches that take what was recorded by hand and give a figure of the plan: one module a kind."""

from aldea.web.benches.calibrate.recordings.addresses import ADDRESSES
from aldea.web.benches.calibrate.recordings.air import AIR
from aldea.web.benches.calibrate.recordings.bench import RecordingsBench
from aldea.web.benches.calibrate.recordings.contact import CONTACT
from aldea.web.benches.calibrate.recordings.curve import CURVE
from aldea.web.benches.calibrate.recordings.detective import DETECTIVE
from aldea.web.benches.calibrate.recordings.difference import DIFFERENCE
from aldea.web.benches.calibrate.recordings.distance import DISTANCE
from aldea.web.benches.calibrate.recordings.doorway import DOORWAY
from aldea.web.benches.calibrate.recordings.filters import FILTERS
from aldea.web.benches.calibrate.recordings.gas import GAS
from aldea.web.benches.calibrate.recordings.hold import HOLD
from aldea.web.benches.calibrate.recordings.light import LIGHT
from aldea.web.benches.calibrate.recordings.multiplexer import MULTIPLEXER
from aldea.web.benches.calibrate.recordings.photodiode import PHOTODIODE
from aldea.web.benches.calibrate.recordings.radar import RADAR
from aldea.web.benches.calibrate.recordings.tape import TAPE

RECORDINGS_BENCHES: dict[str, RecordingsBench] = {
    bench.key: bench
    for bench in (
        CURVE,
        DETECTIVE,
        TAPE,
        RADAR,
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
        FILTERS,
        DIFFERENCE,
    )
}
