"""What must never happen, as sentences."""

from aldea.core.plan.check import check_plan
from aldea.core.plan.edits import put_part
from aldea.core.words.invariants import invariant_sentence, suggestions
from aldea.demo.mill import mill_plan


def test_every_class_has_something_that_must_never_happen():
    plan = mill_plan()
    for load in plan.loads:
        for sentence, made in suggestions(load, plan):
            assert sentence.endswith(".")
            after = put_part(plan, "invariant", made.model_copy(update={"id": "new"}))
            check_plan(after)
            assert sentence not in [s for s, _ in suggestions(load, after)]
    said = [invariant_sentence(made, plan) for made in plan.invariants]
    assert (
        "Cistern inlet valve must never be open for longer than 30 s while Manifold tape is below "
        "60 kΩ." in said
    )
