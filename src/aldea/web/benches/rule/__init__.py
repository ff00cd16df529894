"""The Rule bench: the rules of a load by priority."""

from pathlib import Path

from aldea.web.benches.rule.acts import router as acts_router
from aldea.web.benches.rule.failsafe import router as failsafe_router
from aldea.web.benches.rule.house_rules import router as house_router
from aldea.web.benches.rule.routes import router as stack_router
from aldea.web.benches.rule.sentences import router as sentences_router
from aldea.web.shell.bench import Bench, Key

BENCH = Bench(
    key="rule",
    folder=Path(__file__).parent,
    routers=(stack_router, acts_router, failsafe_router, house_router, sentences_router),
    name="Rule",
    digit="5",
    path="/rule",
    part="rule",
    on_phone="Made for a wider screen. Here it is read and edited a rule at a time.",
    keys=(
        Key(key="A", does="add a rule"),
        Key(key="K", does="save in draft"),
        Key(key="Alt ↑ ↓", does="move a rule within its priority"),
    ),
    views=(
        "/rule?load=panel_heater",
        "/rule?load=extractor&rule=ex_damp",
        "/rule/failsafe?load=panel_heater",
        "/rule/house",
        "/rule/sentences",
    ),
)
