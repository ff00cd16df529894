"""A load behind a plain relay: no figures of its own."""

from aldea.core.devices.loads.facts import LoadFacts

RELAY = LoadFacts(
    kind="relay",
    name="plain relay",
    usual_class="air",
    usual_nature="motor",
    low_voltage_too=True,
)
