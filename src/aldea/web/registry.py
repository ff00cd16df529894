"""Every bench, in the order of the work: a new one is a folder and a line here."""

from aldea.web.benches import (
    calibrate,
    house,
    houses,
    layout,
    record,
    rule,
    search,
    sign_in,
    tune,
    wire,
    words,
)
from aldea.web.shell.bench import Bench

BENCHES: tuple[Bench, ...] = (
    sign_in.BENCH,
    houses.BENCH,
    house.BENCH,
    layout.BENCH,
    wire.BENCH,
    calibrate.BENCH,
    tune.BENCH,
    rule.BENCH,
    record.BENCH,
    words.BENCH,
    search.BENCH,
)
