"""Where the house stands on the earth, asked for where a rule follows the sun."""

from aldea.core.plan.document import House, Plan
from aldea.web.shell.form_fields import Field
from aldea.web.shell.forms import Fields

NORTH, EAST = "earth_north", "earth_east"


def earth_fields(plan: Plan) -> tuple[Field, ...]:
    """Latitude and longitude, while the house has none."""
    if plan.house.latitude_deg is not None and plan.house.longitude_deg is not None:
        return ()
    return (
        _degrees(NORTH, "The house stands at", "° north", 90.0, "for the sun; asked once"),
        _degrees(EAST, "and", "° east", 180.0, "west is negative"),
    )


def _degrees(name: str, label: str, unit: str, most: float, note: str) -> Field:
    return Field(
        name=name, label=label, kind="number", value="", unit=unit, low=-most, high=most,
        optional=True, note=note,
    )  # fmt: skip


def placed(plan: Plan, fields: Fields) -> Plan:
    """The plan with the place that was typed beside a rule; as it is where none was."""
    if not all(fields.sent.get(name, "").strip() for name in (NORTH, EAST)):
        return plan
    north = fields.number(NORTH, low=-90.0, high=90.0, unit="°")
    east = fields.number(EAST, low=-180.0, high=180.0, unit="°")
    fields.check()
    where = {"latitude_deg": north, "longitude_deg": east}
    house = House.model_validate({**plan.house.model_dump(), **where})
    return plan.model_copy(update={"house": house})
