"""The Rule bench: who has the say over a load."""

from pathlib import Path

from aldea.web.benches.rule.acts import router as acts_router
from aldea.web.benches.rule.failsafe import router as failsafe_router
from aldea.web.benches.rule.house_rules import router as house_router
from aldea.web.benches.rule.routes import router as stack_router
from aldea.web.shell.bench import Bench, Key

BENCH = Bench(
    key="rule",
    folder=Path(__file__).parent,
    routers=(stack_router, acts_router, failsafe_router, house_router),
    name="Rule",
    digit="5",
    path="/rule",
    part="rule",
    on_phone="Made for a wider screen. Everything can be read and changed here, a claim at a time.",
    keys=(
        Key(key="A", does="add a claim"),
        Key(key="K", does="keep in draft"),
        Key(key="Alt ↑ ↓", does="move a claim inside its level"),
    ),
    views=(
        "/rule?load=panel_heater",
        "/rule?load=extractor&claim=ex_damp",
        "/rule/failsafe?load=panel_heater",
        "/rule/house",
        "/rule/sentences",
    ),
)
