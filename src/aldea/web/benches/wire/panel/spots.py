"""What stands where on the drawing of a board; the template only draws it.

`tone` is the name of a colour: `ink`, or `fault` and `fail` where a warning rings the thing.
"""

from dataclasses import dataclass

from aldea.core.plan.document import Load
from aldea.core.plan.panel import Board, RelayOutput

SLOT = 42
RELAY = 62
LETTER_BOARD = 6.6


@dataclass(frozen=True, slots=True, kw_only=True)
class PinSpot:
    """A pin on the board's edge: where, its name, the small sign beside it, its warning."""

    x: float
    pin: str
    sign: str
    warning: str
    tone: str
    title: str
    signal: str
    number: str
    joined: bool

    @property
    def frame_width(self) -> float:
        """Width of the frame around a relay's pin and its name, px."""
        return round(26 + len(self.pin) * LETTER_BOARD, 1)


@dataclass(frozen=True, slots=True, kw_only=True)
class DeviceSpot:
    """Something on the input side with its pins."""

    owner: str
    lines: tuple[str, ...]
    value: str
    x: float
    width: float
    pins: tuple[PinSpot, ...]
    warning: str
    tone: str

    @property
    def middle(self) -> float:
        """Where its block stands, px."""
        return self.x + self.width / 2

    @property
    def block_width(self) -> float:
        """Width of its block, px."""
        return 28 if len(self.pins) == 1 else SLOT * len(self.pins) - 12

    @property
    def block_x(self) -> float:
        """Left edge of its block, px."""
        return self.middle - self.block_width / 2


@dataclass(frozen=True, slots=True, kw_only=True)
class TerminalSpot:
    """A numbered terminal under a relay, and the line that leads to it."""

    x: float
    label: str
    path: str


@dataclass(frozen=True, slots=True, kw_only=True)
class RelaySpot:
    """A relay: coil window, contact as it stands, its pin above and its terminals below.

    `path` is the line of a relay without numbered terminals: to the next in series, or volt-free.
    """

    relay: RelayOutput
    x: float
    pin: PinSpot
    conducts: bool
    energised: bool
    priority: int
    current: str
    terminals: tuple[TerminalSpot, ...]
    path: str
    path_width: int
    warning: str
    tone: str

    @property
    def name(self) -> str:
        """As it is written on it."""
        return self.relay.id.upper()

    @property
    def middle(self) -> float:
        """Where its pin stands, px."""
        return self.x + RELAY / 2

    @property
    def pen(self) -> int:
        """Width of its outline: a pulled relay is strong."""
        return 2 if self.energised else 1

    @property
    def arm_x(self) -> float:
        """Where the end of its contact's arm lies, px."""
        return self.x + (48 if self.energised else 14)


@dataclass(frozen=True, slots=True, kw_only=True)
class LoadSpot:
    """The bracket under the terminals of one load."""

    load: Load
    left: float
    right: float
    lines: tuple[str, ...]
    feed: str

    @property
    def middle(self) -> float:
        """Middle of the bracket, px."""
        return (self.left + self.right) / 2


@dataclass(frozen=True, slots=True, kw_only=True)
class PanelDrawing:
    """One board with all that hangs on it; `mains` is empty where nothing of it is at mains."""

    board: Board
    type_name: str
    width: float
    height: int
    devices: tuple[DeviceSpot, ...]
    relays: tuple[RelaySpot, ...]
    loads: tuple[LoadSpot, ...]
    free: str
    summary: str
    supply: str
    mains: str
    elv: str

    @property
    def board_height(self) -> int:
        """Height of the board's own rectangle, px."""
        return 86 if self.relays else 68
