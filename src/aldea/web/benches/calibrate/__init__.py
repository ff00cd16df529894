"""The Calibrate bench: pairs and what follows from them, certificates, recordings."""

from pathlib import Path

from aldea.web.benches.calibrate.budget import routes as budget
from aldea.web.benches.calibrate.certificates import routes as certificates
from aldea.web.benches.calibrate.computed import routes as computed
from aldea.web.benches.calibrate.first import routes as first
from aldea.web.benches.calibrate.identical import routes as identical
from aldea.web.benches.calibrate.pairs import routes as pairs
from aldea.web.benches.calibrate.recordings import routes as recordings
from aldea.web.shell.bench import Bench, Key

BENCH = Bench(
    key="calibrate",
    folder=Path(__file__).parent,
    routers=(
        first.router,
        budget.router,
        identical.router,
        pairs.router,
        certificates.router,
        recordings.router,
        computed.router,
    ),
    name="Calibrate",
    digit="3",
    path="/calibrate",
    part="measure",
    keys=(Key(key="S", does="sign"),),
    views=(
        "/calibrate",
        "/calibrate/drying_rh",
        "/calibrate/studio_temp",
        "/calibrate/drying_temp?span_min=30",
        "/calibrate/studio_temp/budget",
        "/calibrate/studio_temp/identical",
        "/certificates",
        "/computed",
    ),
)
