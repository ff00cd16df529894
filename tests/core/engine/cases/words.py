"""The words of the shared cases beside those of the plan."""

ENDS = {
    "time": "time",
    "agreement": "agreement",
    "given_back": "automatic",
    "position": "position",
}
ENDS_BACK = {ours: theirs for theirs, ours in ENDS.items()}
RETURNS = {"off": "off", "decide": "follow_rules", "last": "last"}
FIELDS = {"hand": "override"}
PRIORITIES = {"hand": "override", "rest": "default_state"}
