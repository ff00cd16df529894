"""What the panel is made of: boards and their pins, supplies, relays, who sits where."""

from typing import Annotated, Literal

from pydantic import Field, StringConstraints

from aldea.core.base.parts import (
    Identifier,
    MilliAmperes,
    Name,
    Ohms,
    Part,
    ShortText,
    Volts,
    text_of,
)

Capability = Literal[
    "digital_in",
    "digital_out",
    "pull_up",
    "analog_in",
    "pulse_in",
    "serial_rx",
    "serial_tx",
    "bus_data",
    "bus_clock",
]
PinName = Annotated[
    str, text_of(r"^[A-Za-z0-9][A-Za-z0-9_+./-]{0,15}$", "up to 16 letters, digits and _ + . / -")
]
SignalId = Annotated[
    str, text_of(r"^[a-z]+:[a-z0-9_]+\.[a-z0-9_]+$", "a line such as relay:fan.coil")
]
BootLevel = Literal["floating", "low", "high", "pulses"]
BoardRole = Literal["controller", "expander", "multiplexer"]


class Pin(Part):
    """One pin: what it can do, its level while the board starts, and what it bears."""

    name: PinName
    number: Annotated[int, Field(ge=1, le=400)]
    can: Annotated[tuple[Capability, ...], Field(max_length=9)]
    analog_dies_with_radio: bool = False
    at_boot: BootLevel = "floating"
    boot_ms: Annotated[float, Field(ge=0, le=60_000)] = 0.0
    boot_pull: Literal["none", "up", "down"] = "none"
    boot_needs: Literal["any", "low", "high"] = "any"
    programming: bool = False
    limit_ma: Annotated[float, Field(ge=0, le=2000)] = 12.0
    tolerates_v: Annotated[float, Field(gt=0, le=60)] = 3.6
    port: Annotated[str, text_of(r"^[a-z0-9]{0,12}$", "up to 12 small letters and digits")] = ""
    note: ShortText = ""

    @property
    def decides_boot(self) -> bool:
        """Whether its level at start chooses the boot mode."""
        return self.boot_needs != "any"

    @property
    def input_only(self) -> bool:
        """Whether it cannot drive anything."""
        return "digital_out" not in self.can


class BoardType(Part):
    """A board as data: its pins, its volts (logic, supply, rails for sensors), its converter."""

    id: Identifier
    name: Name
    role: BoardRole = "controller"
    logic_v: Volts = 3.3
    supply_v: Volts = 5.0
    supply_ma: MilliAmperes = 240.0
    rails_v: Annotated[tuple[Volts, ...], Field(max_length=6)] = (3.3, 5.0)
    has_radio: bool = False
    converter_bits: Annotated[int, Field(ge=0, le=24)] = 12
    converter_v: Annotated[float, Field(ge=0, le=60)] = 3.3
    settle_us: Annotated[float, Field(ge=0, le=1e6)] = 10.0
    pins: Annotated[tuple[Pin, ...], Field(max_length=400)]
    note: ShortText = ""

    def pin(self, name: str) -> Pin | None:
        """The pin of that name, if there is one."""
        return next((p for p in self.pins if p.name == name), None)

    @property
    def address_lines(self) -> int:
        """How many address lines a multiplexer of so many channels needs."""
        return max(1, (len(self.pins) - 1).bit_length())


class Board(Part):
    """A board in a place; an expander or a multiplexer hangs on a host board.

    A multiplexer's enable line is tied to 0 V, or driven by a pin of its host.
    """

    id: Identifier
    name: Name
    place: Identifier
    board_type: Identifier
    supply: Identifier | None = None
    host: Identifier | None = None
    address: Annotated[int, Field(ge=0, le=127)] | None = None
    radio_on: bool = True
    enable: Literal["tied", "driven"] = "tied"


class Supply(Part):
    """A power supply for boards and coils, with the share that is kept as margin."""

    id: Identifier
    name: Name
    place: Identifier
    volts: Volts = 5.0
    gives: Literal["dc", "ac"] = "dc"
    rating_ma: MilliAmperes = 2000.0
    margin_1: Annotated[float, Field(ge=0, le=2)] = 0.25


class Cable(Part):
    """A cable as it is named: how many cores (0 where nobody said), twisted in pairs, screened."""

    cores: Annotated[int, Field(ge=0, le=50)] = 0
    twisted: bool = False
    screened: bool = False

    @property
    def words(self) -> str:
        """As it stands in the schedule."""
        kinds = [word for word in ("twisted", "screened") if getattr(self, word)]
        cores = [f"{self.cores} cores"] if self.cores else []
        return ", ".join([*cores, *kinds])


class TransistorSwitch(Part):
    """A transistor that switches a DC load itself, between the load and 0 V.

    `full_at_v` is the gate voltage at which `on_ohm` holds; `heat_k_per_w` how much it warms
    without a heat sink. A bipolar one takes `full_at_v` at its base and loses `on_v`.
    """

    kind: Literal["field_effect", "bipolar"] = "field_effect"
    full_at_v: Annotated[float, Field(gt=0, le=20)] = 2.5
    on_ohm: Annotated[float, Field(gt=0, le=10)] = 0.03
    on_v: Annotated[float, Field(gt=0, le=3)] = 0.3
    limit_a: Annotated[float, Field(gt=0, le=100)] = 5.0
    heat_k_per_w: Annotated[float, Field(gt=0, le=500)] = 62.0


class RelayOutput(Part):
    """One switch: for which load and in which role, how it is driven, what its contact bears.

    Mostly a relay; with `transistor` a transistor that has no coil and no contact. `input_v3` says
    that a module's input lets go at its board's own logic volts. It stands in the box of its board
    unless `place` names another, its coil is fed by its board's supply unless `coil_fed_by` names
    another; `cable_m`, `cable_mm2` and `cable` say how its coil is reached.
    """

    id: Identifier
    load: Identifier
    role: Identifier = "on"
    active: Literal["high", "low"] = "high"
    contact: Literal["no", "nc"] = "no"
    rated_a: Annotated[float, Field(gt=0, le=400)] = 10.0
    coil_v: Volts = 5.0
    coil_ma: MilliAmperes = 72.0
    coil_fed_by: Identifier | None = None
    driver: Literal["module", "transistor", "board"] = "module"
    pull_ohm: Ohms | None = None
    contactor: bool = False
    input_v3: bool = False
    place: Identifier | None = None
    cable_m: Annotated[float, Field(ge=0, le=500)] = 0.0
    cable_mm2: Annotated[float, Field(ge=0.1, le=2.5)] = 0.75
    cable: Cable = Cable()
    transistor: TransistorSwitch | None = None

    @property
    def by_transistor(self) -> bool:
        """Whether a transistor stands at its pin: that conducts when the pin is high."""
        return self.driver == "transistor" or self.transistor is not None

    @property
    def pulls_in(self) -> Literal["high", "low"]:
        """The level of its pin at which it pulls in as it is built, whatever `active` says."""
        return "high" if self.by_transistor else self.active


class Assignment(Part):
    """Which pin a signal sits on; `by` hand stays when pins are assigned again."""

    signal: SignalId
    board: Identifier
    pin: PinName
    by: Literal["hand", "solver"] = "solver"
    reason: ShortText = ""


ConductorKey = Annotated[str, StringConstraints(min_length=1, max_length=200)]
ConductorNumber = Annotated[str, text_of(r"^[0-9]{1,6}$", "up to 6 digits")]


class NumberGiven(Part):
    """A number that a conductor, or a terminal of X1, was given once; it stays with it.

    Of one that is gone it is not given again until the sheet is issued anew.
    """

    id: ConductorKey
    number: ConductorNumber


class IssuedConductor(Part):
    """A conductor as the issued sheet has it."""

    id: ConductorKey
    number: Annotated[str, StringConstraints(min_length=1, max_length=12)]
    start: Annotated[str, StringConstraints(max_length=200)]
    end: Annotated[str, StringConstraints(max_length=200)]


class SheetIssue(Part):
    """The wiring sheet that hangs at the panel: which issue it is, and what it shows."""

    number: Annotated[int, Field(ge=1, le=100_000)]
    conductors: Annotated[tuple[IssuedConductor, ...], Field(max_length=30_000)] = ()


PartKey = Annotated[str, text_of(r"^[a-z]+:[a-z][a-z0-9_]{0,47}$", "a part such as load:fan")]


class CopiedPart(Part):
    """A part that was made as a copy of another, so that a change can be carried to it."""

    id: PartKey
    of: PartKey


class Stock(Part):
    """What is known of buying a part: pack, price, what lies in the drawer, how many to spare."""

    part: Annotated[str, StringConstraints(min_length=1, max_length=120)]
    pack: Annotated[int, Field(ge=1, le=10_000)] = 1
    pack_price: Annotated[float, Field(ge=0, le=100_000)] = 0.0
    in_drawer: Annotated[float, Field(ge=0, le=100_000)] = 0.0
    spares: Annotated[int, Field(ge=0, le=1000)] = 0


class Colours(Part):
    """The house's rule of conductor colours; the electrician's code goes before it.

    `ac` are both conductors of an extra-low-voltage supply of alternating current.
    """

    line: ShortText = "brown"
    neutral: ShortText = "blue"
    earth: ShortText = "green-yellow"
    switched: ShortText = "black"
    plus: ShortText = "red"
    zero: ShortText = "dark blue"
    ac: ShortText = "violet"
    signal: ShortText = "white"
    clock: ShortText = "yellow"
