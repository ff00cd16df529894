"""Where each field stands in the flat arrays of a compiled plan and of its state.

Rows are probes, conditions, claims or loads; columns are the constants below. One place, so that
the compiler, the scan and the reader of events can never disagree.
"""

NEVER = -(2**61)  # an instant before every other
FOREVER = 2**61

# Probe parameters as float64.
P_SLOPE, P_INTERCEPT, P_LOW, P_HIGH, P_TAU_S, P_STUCK_BAND = range(6)
P_FLOATS = 6
# probe parameters, int64
P_STALE_MS, P_STUCK_MS, P_GOOD_RUN = range(3)
P_INTS = 3
# Conditions: the marks as float64, the rest as int64.
C_ON, C_OFF = range(2)
C_FLOATS = 2
C_PROBE, C_RISING, C_DELAY_ON_MS, C_DELAY_OFF_MS = range(4)
C_INTS = 4
# claims, int64, sorted by load and then strongest first
K_LOAD, K_RANK, K_WANT, K_CONDITION, K_PROBE, K_AFTER_MS = range(6)
K_INTS = 6
# load parameters, int64
L_FIRST, L_END, L_MIN_ON_MS, L_MIN_OFF_MS, L_POLICY, L_RETURN_DELAY_MS = range(6)
L_INTS = 6

# probe state: float64 and int64
S_FILTERED, S_VALUE, S_ANCHOR = range(3)
S_FLOATS = 3
S_LAST_MS, S_GOOD_MS, S_QUALITY, S_RUN, S_ANCHOR_MS, S_SEEN_QUALITY, S_ENTERED_MS = range(7)
S_INTS = 7
# condition state, int64
B_RAW, B_SINCE_MS, B_OUT, B_LET_GO, B_LOCKED = range(5)
B_INTS = 5
# load state, int64
O_STATE, O_CHANGED_MS, O_DECIDER, O_INHIBIT, O_BOOT_UNTIL_MS, O_ASKED, O_CITED = range(7)
O_INTS = 7

# quality of a probe
GOOD, RANGE, STUCK, STALE, WARMING = range(5)
QUALITY_NAMES = ("good", "range", "stuck", "stale", "warming")
# ranks, strongest first
RANK_FAULT, RANK_DEMAND, RANK_REST = 3, 6, 7
RANK_NAMES = {0: "no power", 3: "fault", 6: "demand", 7: "idle"}
# what delays a wanted change
INHIBIT_NONE, INHIBIT_MIN_ON, INHIBIT_MIN_OFF, INHIBIT_RETURN_DELAY, INHIBIT_RETURN_OFF = range(5)
INHIBIT_NAMES = ("", "min on", "min off", "return delay", "return off")
# What a load does after a power cut.
POLICY_OFF, POLICY_DECIDE, POLICY_LAST = range(3)
POLICY_CODES = {"off": POLICY_OFF, "decide": POLICY_DECIDE, "last": POLICY_LAST}

# events, int64, with one float64 value beside each
E_T_MS, E_TYPE, E_WHO, E_FROM, E_TO, E_CLAIM, E_INHIBIT, E_CITED = range(8)
E_INTS = 8
EVENT_LOAD, EVENT_PROBE, EVENT_POWER = range(3)
NO_POWER = -1  # in the place of a claim: there was nobody to decide
NOBODY = -1  # in the place of a cited claim: nobody ever asks here
