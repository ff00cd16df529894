"""The codes that a compiled plan, a scan and the readers of its events share.

One place, so that the compiler, the scan and who reads events can never disagree. The columns of
each table stand beside the table, in `core.engine.tables`.
"""

NEVER = -(2**61)  # an instant before every other
FOREVER = 2**61
NONE = -1  # in the place of a row or of a time: there is none

# quality of a probe
GOOD, RANGE, STUCK, STALE, WARMING, JUMP = range(6)
QUALITY_NAMES = ("good", "range", "stuck", "stale", "warming", "jump")
# priorities, strongest first
(
    PRIORITY_TRIP,
    PRIORITY_INTERLOCK,
    PRIORITY_FAULT,
    PRIORITY_OVERRIDE,
    PRIORITY_SCHEDULE,
    PRIORITY_DEMAND,
    PRIORITY_DEFAULT,
) = range(1, 8)
PRIORITY_NAMES = {
    0: "no power",
    1: "trip",
    2: "interlock",
    3: "fault",
    4: "override",
    5: "schedule",
    6: "demand",
    7: "default_state",
}
PRIORITY_CODES = {name: code for code, name in PRIORITY_NAMES.items()}
# what delays a wanted change, in the order in which it is looked at
(
    INHIBIT_NONE,
    INHIBIT_MIN_ON,
    INHIBIT_MIN_OFF,
    INHIBIT_BOOT_DELAY,
    INHIBIT_RETURN_OFF,
    INHIBIT_MAX_ON,
    INHIBIT_STARTS,
    INHIBIT_EXCLUSIVE,
    INHIBIT_BREAK,
    INHIBIT_MOVING,
    INHIBIT_NOT_ARRIVING,
    INHIBIT_SELECTOR,
) = range(12)
INHIBIT_NAMES = (
    "",
    "min on",
    "min off",
    "boot delay",
    "return off",
    "max on",
    "starts per hour",
    "exclusive",
    "break before make",
    "moving",
    "not arriving",
    "selector",
)
# What a load does after a power cut.
POLICY_OFF, POLICY_FOLLOW_RULES, POLICY_LAST = range(3)
POLICY_CODES = {"off": POLICY_OFF, "follow_rules": POLICY_FOLLOW_RULES, "last": POLICY_LAST}
# How an override rule ends.
ENDS_BY_TIME, ENDS_BY_AGREEMENT, ENDS_BY_AUTOMATIC, ENDS_BY_POSITION = range(4)
ENDS_BY_CODES = {
    "time": ENDS_BY_TIME,
    "agreement": ENDS_BY_AGREEMENT,
    "automatic": ENDS_BY_AUTOMATIC,
    "position": ENDS_BY_POSITION,
}
ENDS_BY_NAMES = ("time", "agreement", "automatic", "position")

# States of a load: 0 is off or shut; what is above it is on, and which step or pattern.
OFF, ON = 0, 1
SHUT, OPEN, MOVING, UNKNOWN = 0, 1, 2, 3
NO_WISH = -1  # what a drive is wanted to do where no rule moves it
# Kinds of load, by how its contacts follow its state.
KIND_STEADY, KIND_TWO_WAY, KIND_DRIVE = range(3)
# What a rule or a command wants, before it is known as a state of its load.
WANT_OFF, WANT_ON, WANT_OPEN, WANT_SHUT, WANT_LEVEL = range(5)  # level n is WANT_LEVEL + n

# events, int64, with one float64 value beside each
(
    E_T_MS,
    E_TYPE,
    E_WHO,
    E_FROM,
    E_TO,
    E_RULE,
    E_AUTHOR,
    E_DECIDER,
    E_DECIDED_BY,
    E_WANT,
    E_INHIBIT,
    E_KEPT,
    E_CITED,
) = range(13)
E_INTS = 13
(
    EVENT_LOAD,
    EVENT_PROBE,
    EVENT_POWER,
    EVENT_BOOT,
    EVENT_CONDITION,
    EVENT_TRIP,
    EVENT_MISSED,
    EVENT_MODE,
) = range(8)
MISSED_ARRIVE, MISSED_FOLLOW, MISSED_LOCKED, MISSED_RESET = range(4)
MISSED_NAMES = ("did not arrive", "did not follow", "locked out", "reset")
NO_POWER = -1  # in the place of a rule: there was nobody to decide
UNASKED = -3  # in the place of a rule: moved without being asked
NOBODY = -1  # in the place of a cited rule: nobody ever asks here
NO_DECIDER = -2  # before the first scan
# lines: the pins of the relays, as 0 or 1; NO_LEVEL while there is no power
NO_LEVEL = -1
