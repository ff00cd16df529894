"""Names of a case and the ids that they go by in a plan, both ways."""

OFFSET_MS = 1_800_000_000_000  # a multiple of every scan period of the cases


class Names:
    """Ids by kind and name."""

    def __init__(self, case):
        self.ids = {}
        self.names = {}
        loads = [
            *(
                (load, rule["id"])
                for load, row in case.get("loads", {}).items()
                for rule in row.get("claims", [])
            )
        ]
        for kind in (
            "probe",
            "signal",
            "mode",
            "schedule",
            "button",
            "selector",
            "code",
            "doorway",
            "relay",
            "load",
        ):
            for name in case.get(kind + "s", {}):
                self.give(kind, name)
        for name in case.get("conditions", {}):
            self.give("condition", name)
        for pair in loads:
            self.give("claim", pair)

    def give(self, kind, name):
        """The id of a name, a new one where it has none."""
        key = (kind, name)
        if key not in self.ids:
            made = f"{kind}_{sum(1 for k, _ in self.ids if k == kind)}"
            self.ids[key] = made
            self.names[made] = name
        return self.ids[key]

    def reading(self, name):
        """The id of a probe or, where there is none of that name, of a derived signal."""
        return self.ids.get(("probe", name)) or self.give("signal", name)
