"""What a case needs that is not built yet, by name: it is not run, and says so."""

import json


def not_built(case):
    """The first thing that a case needs and that is not there; nothing where it can be run."""
    text = json.dumps(case)
    needs = {
        "an override that ends with its mode (D93)": '"ends_with_mode"',
        "the school position (D95)": '"position"}',
        "moments over a cut (D96)": '"catch_up"',
        "group commands (D97)": '"groups"',
    }
    for what, sign in needs.items():
        if sign in text:
            return what
    several = any(isinstance(action, list) for action in actions_of(case))
    return "several wants of one act (D94)" if several else None


def actions_of(case):
    """Every action of a case."""
    for button in case.get("buttons", {}).values():
        yield from (button[press] for press in ("short", "long", "double") if press in button)
    for selector in case.get("selectors", {}).values():
        yield from selector["positions"].values()
    yield from (code["action"] for code in case.get("codes", {}).values())
    yield from (row[3] for row in case.get("messages", ()) if row[1] == "page")
