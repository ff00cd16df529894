"""The two-wire bus over a cable: what its capacitance makes of the edges.

Rise from 30 % to 70 %: t = 0.8473 R C (UM10204, section 7.1); at most 1000 ns at 100 kHz, 300 ns at
400 kHz.
"""

from aldea.core.base.limits import ABOVE_ZERO, takes

MOST_RISE_S = {100_000: 1000e-9, 400_000: 300e-9}
MOST_BUS_FARAD = 400e-12
PART_FARAD = 15e-12  # of a part and its terminals, as their sheets say about
CABLE_FARAD_PER_M = 60e-12  # of ordinary cable, assumed
SCREENED_FARAD_PER_M = 120e-12  # of screened or twisted cable, assumed


def rise_s(pull_ohm: float, farad: float) -> float:
    """How long a line takes from 30 % to 70 %, s."""
    return 0.8473 * pull_ohm * farad


@takes(farad=ABOVE_ZERO, most_s=ABOVE_ZERO)
def fitting_pull_ohm(farad: float, most_s: float) -> float:
    """The largest pull-up at which a line still rises in a time, Ω."""
    return most_s / (0.8473 * farad)


def least_pull_ohm(rail_v: float) -> float:
    """The smallest pull-up that a part can pull down to 0.4 V with its 3 mA, Ω."""
    return (rail_v - 0.4) / 3e-3
