"""Which relays conduct at an instant of a run."""

import numpy as np

from aldea.core.engine.replay import Run
from aldea.core.wiring.contacts import WiredContacts


def conducting_at(run: Run, t_ms: int) -> dict[str, bool]:
    """Whether each wired relay of a run conducts at an instant, by its id."""
    relays = {relay.id: relay for relay in run.compiled.plan.relays}
    until = int(np.searchsorted(run.lines[:, 0], t_ms, side="right"))
    levels: dict[int, int] = {line: level for _, line, level in run.lines[:until].tolist()}
    return {
        name.relay: WiredContacts.conducts(relays[name.relay], levels.get(line, -1))
        for line, name in enumerate(run.compiled.line_names)
        if name.relay is not None
    }
