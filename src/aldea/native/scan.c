/* The scan of a house, written out from its source in core/engine/scan: do not edit.
   `./aldea engine --write` writes it anew.
   sources: 5d359f4f2bafe86100e805504ce8a445561866f54b2690b184b7c531122b5d9b */

#include <math.h>
#include <stdbool.h>
#include <stddef.h>
#include <stdint.h>

enum {
  ABSENT = -1,
  ACT_AUTOMATIC = 3,
  ACT_GROUP = 7,
  ACT_MODE = 5,
  ACT_ONLY = 0,
  ACT_OVERRIDE = 1,
  ACT_RESET = 6,
  ACT_STEP = 4,
  ACT_TOGGLE = 2,
  ALL_TRIPS = -1,
  ANY_PATTERN = -1,
  DONE = 3,
  ENDS_BY_AGREEMENT = 1,
  ENDS_BY_AUTOMATIC = 2,
  ENDS_BY_POSITION = 3,
  ENDS_BY_TIME = 0,
  EVENT_BOOT = 3,
  EVENT_CONDITION = 4,
  EVENT_LOAD = 0,
  EVENT_MISSED = 6,
  EVENT_MODE = 7,
  EVENT_POWER = 2,
  EVENT_PROBE = 1,
  EVENT_TRIP = 5,
  FIELD_BAND = 3,
  FIELD_COUNT = 2,
  FIELD_GROUP = 9,
  FIELD_LOAD = 0,
  FIELD_LOCK = 5,
  FIELD_MODE = 1,
  FIELD_MOMENTS = 6,
  FIELD_NOT_ARRIVING = 8,
  FIELD_OVERRIDE = 4,
  FIELD_TRIP = 7,
  FILTER_MEAN = 2,
  FILTER_MEDIAN = 3,
  FILTER_TIME = 1,
  GOOD = 0,
  GROUP_AUTHOR = 0,
  GROUP_ENDS_BY = 1,
  GROUP_FIRST = 6,
  GROUP_FOR = 2,
  GROUP_MODE = 4,
  GROUP_UNTIL = 3,
  GROUP_VALUE = 5,
  HAS_CONTROLS = 1,
  HAS_DERIVED = 8,
  HAS_DOORWAYS = 2,
  HAS_DRIVES = 32,
  HAS_MEMORY = 128,
  HAS_PATTERNS = 64,
  HAS_SCHEDULES = 4,
  HAS_TWO_WAY = 16,
  HOUR_MS = 3600000,
  IDLE = 0,
  INHIBIT_BOOT_DELAY = 3,
  INHIBIT_BREAK = 8,
  INHIBIT_EXCLUSIVE = 7,
  INHIBIT_MAX_ON = 5,
  INHIBIT_MIN_OFF = 2,
  INHIBIT_MIN_ON = 1,
  INHIBIT_MOVING = 9,
  INHIBIT_NONE = 0,
  INHIBIT_NOT_ARRIVING = 10,
  INHIBIT_RETURN_OFF = 4,
  INHIBIT_SELECTOR = 11,
  INHIBIT_STARTS = 6,
  INNER = 1,
  JUMP = 5,
  KEEP = 0,
  KEPT = 1,
  KIND_DRIVE = 2,
  KIND_STEADY = 0,
  KIND_TWO_WAY = 1,
  LIT = 0,
  LOAD_ANY_ON = 100,
  LOAD_MISSED = 101,
  LOCK_AUTHOR = 1,
  LOCK_FIRST = 2,
  LOCK_THERE = 0,
  MISSED_ARRIVE = 0,
  MISSED_FOLLOW = 1,
  MISSED_LOCKED = 2,
  MISSED_RESET = 3,
  MOMENTS_FIRST = 1,
  MOMENTS_HELD = 0,
  MOVING = 2,
  MS_PER_DAY = 86400000,
  NEXT_VALUE = -1,
  NOBODY = -1,
  NODE_ALL = 5,
  NODE_ANY = 6,
  NODE_CLOCK = 14,
  NODE_COUNT = 10,
  NODE_FOR = 3,
  NODE_INPUT = 2,
  NODE_LOAD = 9,
  NODE_MODE = 8,
  NODE_NOT = 7,
  NODE_PULSE = 4,
  NODE_QUALITY = 11,
  NODE_SCHEDULE = 12,
  NODE_SUN = 13,
  NODE_WITHIN = 1,
  NONE = -1,
  NO_DECIDER = -2,
  NO_LEVEL = -1,
  NO_POWER = -1,
  NO_STATE = -2,
  NO_WISH = -1,
  OFF = 0,
  ON = 1,
  ON_STATED = 2,
  OPEN = 1,
  OUTER = 0,
  OUTSIDE = 1,
  OVERRIDE_AUTHOR = 2,
  OVERRIDE_END = 4,
  OVERRIDE_ENDS_BY = 3,
  OVERRIDE_MODE = 5,
  OVERRIDE_THERE = 0,
  OVERRIDE_VALUE = 6,
  OVERRIDE_WANT = 1,
  POLICY_FOLLOW_RULES = 1,
  POLICY_LAST = 2,
  POLICY_OFF = 0,
  PRESSED = 1,
  PRIORITY_DEMAND = 6,
  PRIORITY_FAULT = 3,
  PRIORITY_OVERRIDE = 4,
  PRIORITY_SCHEDULE = 5,
  PRIORITY_TRIP = 1,
  RANGE = 1,
  RELEASED = 2,
  SHUT = 0,
  SIGNAL_ABSOLUTE_HUMIDITY = 6,
  SIGNAL_DEW_POINT = 5,
  SIGNAL_DIFFERENCE = 3,
  SIGNAL_ECHO = 7,
  SIGNAL_HIGHEST = 1,
  SIGNAL_LESS_LAMP = 8,
  SIGNAL_LOWEST = 2,
  SIGNAL_LUX = 9,
  SIGNAL_MEAN = 0,
  SIGNAL_RATE = 4,
  SIGNAL_RATIO = 10,
  STALE = 3,
  STATED = 2,
  STATED_TRUE = 2,
  STUCK = 2,
  UNASKED = -3,
  UNKNOWN = 3,
  UNREAD = -1,
  UNSEEN = -1,
  UNSENSED = -1,
  WALL = 0,
  WANT_LEVEL = 4,
  WANT_OFF = 0,
  WANT_ON = 1,
  WANT_OPEN = 2,
  WANT_SHUT = 3,
  WARMING = 4,
};
#define FOREVER INT64_C(2305843009213693952)
#define KELVIN_AT_ZERO_DEGC 273.15
#define MAGNUS_DEGC 243.12
#define MAGNUS_FACTOR 17.62
#define MAGNUS_HPA 6.112
#define MS_PER_MIN 60000.0
#define NEVER (INT64_C(-2305843009213693952))
#define NO_END (INT64_C(-1152921504606846976))
#define VAPOUR_GAS_CONSTANT 461.52

/* Division as the scan means it: the whole part lies below, the remainder has the divisor's sign.
   Nobody divides by nothing: what divides is checked where it is made. */
static inline int64_t remainder_of(int64_t a, int64_t b) {
  const int64_t r = a % b;
  return r != 0 && ((r < 0) != (b < 0)) ? r + b : r;
}
static inline int64_t whole_part(int64_t a, int64_t b) { return (a - remainder_of(a, b)) / b; }
static inline int64_t least(int64_t a, int64_t b) { return b < a ? b : a; }
static inline int64_t most(int64_t a, int64_t b) { return b > a ? b : a; }
/* Of a number and NaN the first stays, as in the scan's source; fmin would take the number. */
static inline double least_real(double a, double b) { return b < a ? b : a; }
static inline double most_real(double a, double b) { return b > a ? b : a; }

/* --- rows */

/* A probe: calibration, range, filter, and when its readings are not good. */
typedef struct {
  double slope;
  double intercept;
  double low;
  double high;
  double tau_s;
  double stuck_band;
  double jump_per_s;
  int64_t stale_ms;
  int64_t stuck_ms;
  int64_t warm_ms;
  int32_t good_run;
  int32_t ring; /* first cell of its last readings, for a mean or a median */
  int32_t rates; /* the rates that it feeds: first and end in `rate_feeds` */
  int32_t rates_end;
  int16_t takes;
  int16_t jump_after;
  int8_t filter;
} ProbeSpec;

/* A signal that is calculated from others: `first` to `end` in `signal_members`. */
typedef struct {
  double a;
  double b;
  double c;
  double d;
  int64_t over_ms;
  int32_t first;
  int32_t end;
  int32_t ring; /* of a rate: the first cell of its readings, and how many there may be */
  int32_t room;
  int16_t load;
  int8_t kind;
} DerivedSpec;

/* A condition: what it looks at, its thresholds, its delays, its members. */
typedef struct {
  double on;
  double off;
  int64_t on_ms;
  int64_t off_ms;
  int64_t keep_ms; /* how long a result is kept without a reading before another is stated */
  int32_t first; /* its members: first and end in `condition_members` */
  int32_t end;
  int32_t signal;
  int32_t a;
  int32_t b;
  int8_t kind;
  int8_t rising;
  int8_t named;
  int8_t without;
} ConditionSpec;

/* A load: its rules, its times, its relays, what it does without power. */
typedef struct {
  double open_at;
  double shut_at;
  int64_t min_on_ms;
  int64_t min_off_ms;
  int64_t max_on_ms;
  int64_t rest_ms;
  int64_t boot_ms;
  int64_t override_ms;
  int64_t dead_ms;
  int64_t pulse_ms;
  int64_t travel_ms;
  int32_t ring; /* the first cell of its starts */
  int32_t combo; /* the first cell of its combinations: `line_end` − `line` for each state */
  int16_t first;
  int16_t override;
  int16_t rest;
  int16_t last;
  int16_t lowest;
  int16_t starts;
  int16_t line;
  int16_t line_end;
  int16_t states;
  int16_t open_input;
  int16_t shut_input;
  int16_t position;
  int16_t sense;
  int16_t pattern;
  int16_t patterns;
  int16_t steps;
  int16_t dial; /* a selector whose position rules it, or −1 */
  int8_t kind;
  int8_t valve;
  int8_t policy;
  int8_t ends_by;
  int8_t unpowered;
  int8_t tries; /* pulses in a row that may fail to arrive before the drive is locked out; 0: any */
  int8_t breaks;
} LoadSpec;

/* A rule; those of a load stand together, strongest first, what it is at idle last. */
typedef struct {
  int64_t after_ms;
  int64_t pulse_ms;
  int16_t load;
  int16_t want;
  int16_t node;
  int16_t probe;
  int16_t signal;
  int16_t qualities;
  int8_t priority;
} RuleSpec;

/* The line of a relay: its contact opens by the coil (nc), it draws at low, level at boot. */
typedef struct {
  int8_t nc;
  int8_t low;
  int8_t boot;
} LineSpec;

/* A pattern's parts: first and end in `parts_ms`, on and off in turn. */
typedef struct {
  int32_t first;
  int32_t end;
} PatternSpec;

/* Relays that never conduct together: first and end in `exclusive_lines`. */
typedef struct {
  int64_t dead_ms;
  int32_t first;
  int32_t end;
} ExclusiveSpec;

/* A digital input: how long a level must stand to count. */
typedef struct {
  int64_t debounce_ms;
} InputSpec;

/* A button: its input, its times, what each kind of press does. */
typedef struct {
  int64_t long_ms;
  int64_t double_ms;
  int64_t lockout_ms;
  int32_t short_first;
  int32_t short_end;
  int32_t long_first;
  int32_t long_end;
  int32_t double_first;
  int32_t double_end;
  int16_t input;
  int16_t author;
} ButtonSpec;

/* A selector, or a wall switch as one of two positions: first and end in `positions`. */
typedef struct {
  int64_t settle_ms;
  int32_t first;
  int32_t end;
  int16_t input;
  int16_t author;
  int16_t load;
  int8_t at_boot;
} SelectorSpec;

/* A position: the pattern of contacts, its actions. */
typedef struct {
  int32_t pattern;
  int32_t first;
  int32_t end;
} PositionSpec;

/* A code of a remote: its actions, and how long the same code is the same press. */
typedef struct {
  int64_t lockout_ms;
  int32_t first;
  int32_t end;
  int16_t author;
} CodeSpec;

/* One thing that a press, a code, a position or a page does.

   `by` is how many steps it takes; of a mode that must hold, how many rows depend on it. `mode`
   and `value` are those with which the override that it makes ends. */
typedef struct {
  int64_t for_ms;
  int64_t until_ms;
  int64_t delay_ms;
  int16_t who;
  int16_t want;
  int16_t by;
  int16_t mode;
  int16_t value;
  int16_t group;
  int8_t kind;
  int8_t ends_by;
} ActionSpec;

/* A mode: the value it starts with, how many there are. */
typedef struct {
  int16_t start;
  int16_t values;
} ModeSpec;

/* A condition that sets a mode when it becomes true (`begin`) and false (`end`); −1 where not.

   `before` is how many rows of conditions are judged before a mode is set, the same in each. */
typedef struct {
  int32_t node;
  int32_t before;
  int16_t mode;
  int16_t begin;
  int16_t end;
  int16_t author;
  /* whether it sets the mode, too, where the condition is found true after a boot */
  int8_t on_boot;
} ModeChangeSpec;

/* A group: how far apart its members are commanded, and after a boot the first of them. */
typedef struct {
  int64_t stagger_ms;
  int64_t boot_ms;
  int32_t first; /* its members: first and end in `group_members` */
  int32_t end;
} GroupSpec;

/* Two sides that are crossed one after the other; its resets: first and end in `reset_ms`. */
typedef struct {
  int64_t within_ms;
  int16_t outer;
  int16_t inner;
} DoorwaySpec;

/* Where a schedule keeps its moments of a day that have begun: first cell, how many fit. */
typedef struct {
  int32_t first;
  int16_t room;
} BegunSpec;

/* A field: what it retains, of whom, in which cells. */
typedef struct {
  int32_t cell;
  int32_t end;
  int16_t who;
  int8_t kind;
} FieldSpec;

/* When what changed is written, and how long a record is. */
typedef struct {
  int64_t quiet_ms;
  int64_t latest_ms;
  int64_t least_ms;
  int32_t bytes;
  int8_t on;
} PolicySpec;

/* A schedule in a calendar: its spans, its moments, how long each moment lasts. */
typedef struct {
  int64_t for_ms;
  int32_t first;
  int32_t end;
  int32_t moment;
  int32_t moment_end;
  int8_t unknown;
  int8_t catch_up; /* whether a moment that a cut hid begins late: CATCH_UP_ABSENT, 0 or 1 */
} ScheduleSpec;

/* The sun in a calendar: its instants, whether it is up before the first. */
typedef struct {
  int32_t first;
  int32_t end;
  int8_t up;
} SunSpec;

/* The resets of a doorway in a calendar: first and end in `reset_ms`. */
typedef struct {
  int32_t first;
  int32_t end;
} ResetSpec;

/* The level that a digital input takes on. */
typedef struct {
  int64_t t_ms;
  int32_t level;
  int16_t input;
} Level;

/* A page's or a remote's: its code (or −1), or its actions and their author. */
typedef struct {
  int64_t t_ms;
  int32_t first;
  int32_t end;
  int16_t code;
  int16_t author;
} MessageRow;

/* What the clock says at an instant, and whether it is known. */
typedef struct {
  int64_t t_ms;
  int64_t says_ms;
  int16_t known;
} ClockRow;

/* A power cut; `torn` bytes of the last write before it were written (−1: all). */
typedef struct {
  int64_t from_ms;
  int64_t to_ms;
  int64_t boot_ms;
  int32_t torn;
  int16_t kept; /* whether the clock went on */
} CutRow;

/* What all stages know of a run. */
typedef struct {
  int64_t booted_ms;
  int64_t clock_base_ms; /* what the clock says, less the instant */
  int64_t clock_low_ms; /* the least that it said since it is known without a break */
  int16_t has;
  int8_t first; /* whether this is the first scan after a boot */
  int8_t free; /* whether the run began in the middle, so that no boot rule binds it */
  int8_t clock_known;
  int8_t stirred;
  int8_t listens;
  int8_t seeds;
  int8_t lines;
} Head;

/* Where each kind of input has been read up to.

   `feeds` says that the next scan is only for derived signals. */
typedef struct {
  int64_t sample;
  int64_t level;
  int64_t message;
  int64_t clock;
  int64_t cut;
  int64_t feeds;
} Cursor;

/* Where a probe stands. */
typedef struct {
  double filtered;
  double value;
  double anchor;
  double base;
  double jumped;
  int64_t last_ms;
  int64_t good_ms;
  int64_t anchor_ms;
  int64_t entered_ms;
  int64_t base_ms;
  int64_t jumped_ms;
  int32_t good_count; /* good samples in a row */
  int16_t jumped_count;
  int16_t held;
  int16_t next;
  int8_t quality;
  int8_t seen_quality;
  int8_t been_good;
} ProbeNow;

/* For skipping: the open interval in which no condition on a probe changes.

   `feeds` says whether a derived signal reads it. */
typedef struct {
  double low;
  double high;
  int8_t feeds;
} Quiet;

/* What a scan reads of a probe or, in the rows after those, of a derived signal.

   `good_ms` is the instant of the last good sample; of a derived signal that is not good, the
   earliest of those of what is not good under it. */
typedef struct {
  double value;
  int64_t good_ms;
  int8_t good;
} SignalNow;

/* The ring of a rate: where the reading to compare with lies, how many are held. */
typedef struct {
  int32_t first;
  int32_t held;
} RateNow;

/* What a condition says, what its member said, since when, whether it has been false since.

   `good` says whether every value that it reads is good, `dark` whether its own is not, and
   whether a stated result stands then; `own` is what it says by itself. */
typedef struct {
  int64_t since_ms;
  int8_t now;
  int8_t own;
  int8_t member;
  int8_t let_go;
  int8_t good;
  int8_t dark;
  int8_t seen;
  int8_t letting;
} ConditionNow;

/* Where a load stands. */
typedef struct {
  int64_t commanded_ms; /* the scan that took its override rule */
  int64_t on_ms;
  int64_t off_ms;
  int64_t lock_ms;
  int64_t override_end_ms;
  int64_t override_until_ms;
  int64_t override_stored_ms;
  int64_t pattern_ms;
  int64_t pulse_ms;
  int64_t toggled_ms;
  int64_t pulsed_ms; /* when the last pulse began */
  int64_t move_ms;
  int64_t wait_ms;
  int64_t wait_for_ms;
  int64_t wait_until_ms;
  int16_t state;
  int16_t chosen; /* the rule that decides in this scan, and the state that it wants */
  int16_t chosen_want;
  int16_t decider; /* what was written last: who decided, who that was, what was wanted */
  int16_t author;
  int16_t want;
  int16_t cited;
  int16_t asker;
  int16_t kept_for;
  int16_t lock_author;
  int16_t override;
  int16_t override_mode; /* the mode, and its value, with which the override ends */
  int16_t override_value;
  int16_t wait_group;
  int16_t wait_mode;
  int16_t wait_value;
  int16_t override_author;
  int16_t below;
  int16_t last;
  int16_t tried;
  int16_t blocked;
  int16_t blocked_who;
  int16_t blocked_author;
  int16_t move_from;
  int16_t move_who;
  int16_t move_author;
  int16_t move_want;
  int16_t starts_next;
  int16_t starts_held;
  int16_t wait;
  int16_t wait_author;
  int8_t inhibit;
  int8_t kept;
  int8_t locked;
  int8_t relock;
  int8_t override_ends_by;
  int8_t override_asleep;
  int8_t decided;
  int8_t sensed;
  int8_t unasked;
  int8_t move_left;
  int8_t move_pulsed;
  int8_t failed; /* pulses in a row that did not arrive */
  int8_t not_arriving;
  int8_t late; /* the end that the last pulse wanted has not answered, nor any other since */
  int8_t late_want;
  int8_t unplaced; /* at neither end since the boot */
  int8_t measured; /* a distance was good since the boot */
  int8_t outside; /* in this scan others moved it */
  int8_t at_open;
  int8_t at_shut;
  int8_t wait_ends_by;
} LoadNow;

/* Where a rule stands. */
typedef struct {
  int64_t began_ms;
  int16_t reset; /* one more than the author of a reset; 0 where nobody asked for one */
  int8_t tripped;
  int8_t was;
  int8_t fresh;
  int8_t active;
  int8_t asking;
  int8_t noted;
  int8_t still;
} RuleNow;

/* Whether the contact of a relay conducts, since when it does not, the level of its line. */
typedef struct {
  int64_t opened_ms;
  int8_t closed;
  int8_t shown;
} LineNow;

/* Where a digital input stands: its level, since when, and the one that counts.

   `before` is what counted at the scan before, `flipped` whether it was otherwise since then,
   `moved` whether it has an edge at the instant that is being taken. */
typedef struct {
  int64_t raw_ms;
  int32_t raw;
  int32_t level;
  int32_t before;
  int8_t flipped;
  int8_t moved;
} InputNow;

/* Where a button stands. */
typedef struct {
  int64_t press_ms;
  int64_t release_ms;
  int64_t fired_ms;
  int8_t state;
} ButtonNow;

/* The pattern of contacts that acted last; whether and since when another one waits. */
typedef struct {
  int64_t since_ms;
  int32_t spoken;
  int8_t waits;
} SelectorNow;

/* What the condition of a mode change was in the scan before; −1 before the first. */
typedef struct {
  int8_t seen;
} ModeChangeNow;

/* How many are in by a doorway, and which side rose last. */
typedef struct {
  int64_t side_ms;
  int64_t clock_ms;
  int32_t count;
  int32_t reset;
  int8_t side;
} DoorwayNow;

/* Where a schedule stands, and how many of its moments of a day have begun.

   `resumes` says that what a cut broke off goes on when the clock is known. */
typedef struct {
  int64_t until_ms;
  int32_t next;
  int16_t held;
  int8_t active;
  int8_t resumes;
} ScheduleNow;

/* The slot that was written last, and what waits to be written. */
typedef struct {
  int64_t written_ms;
  int64_t changed_ms;
  int64_t first_ms;
  int32_t sequence;
  int32_t before_sequence;
  int8_t slot;
  int8_t known;
  int8_t last_slot;
  int8_t before_valid;
} MemoryNow;

/* Whether a slot holds a valid record, and its sequence number. */
typedef struct {
  int32_t sequence;
  int8_t valid;
} SlotNow;

/* How many rows of each kind came out, also those for which there was no room. */
typedef struct {
  int64_t events;
  int64_t lines;
  int64_t writes;
} Counts;

/* One event; what its columns mean stands in `core.engine.layout`. */
typedef struct {
  int64_t t_ms;
  int64_t type;
  int64_t who;
  int64_t state_from;
  int64_t state_to;
  int64_t rule;
  int64_t author;
  int64_t decider;
  int64_t decided_by;
  int64_t want;
  int64_t inhibit;
  int64_t kept;
  int64_t cited;
  double value;
} EventRow;

/* The new level of a relay's line. */
typedef struct {
  int64_t t_ms;
  int64_t line;
  int64_t level;
} LineRow;

/* A record written into memory. */
typedef struct {
  int64_t t_ms;
  int64_t slot;
  int64_t sequence;
} WriteRow;

/* --- tables */

/* A compiled plan. */
typedef struct {
  const ProbeSpec *probes;
  int32_t probes_rows;
  const DerivedSpec *derived;
  int32_t derived_rows;
  const int32_t *signal_members;
  int32_t signal_members_rows;
  const int32_t *rate_feeds;
  int32_t rate_feeds_rows;
  const ConditionSpec *conditions;
  int32_t conditions_rows;
  const int32_t *condition_members;
  int32_t condition_members_rows;
  const LoadSpec *loads;
  int32_t loads_rows;
  const RuleSpec *rules;
  int32_t rules_rows;
  const LineSpec *lines;
  int32_t lines_rows;
  const int8_t *combos;
  int32_t combos_rows;
  const PatternSpec *patterns;
  int32_t patterns_rows;
  const int64_t *parts_ms;
  int32_t parts_ms_rows;
  const ExclusiveSpec *exclusive;
  int32_t exclusive_rows;
  const int16_t *exclusive_lines;
  int32_t exclusive_lines_rows;
  const InputSpec *inputs;
  int32_t inputs_rows;
  const ButtonSpec *buttons;
  int32_t buttons_rows;
  const SelectorSpec *selectors;
  int32_t selectors_rows;
  const PositionSpec *positions;
  int32_t positions_rows;
  const CodeSpec *codes;
  int32_t codes_rows;
  const ActionSpec *actions;
  int32_t actions_rows;
  const ModeSpec *modes;
  int32_t modes_rows;
  const ModeChangeSpec *mode_changes;
  int32_t mode_changes_rows;
  const GroupSpec *groups;
  int32_t groups_rows;
  const int16_t *group_members;
  int32_t group_members_rows;
  const DoorwaySpec *doorways;
  int32_t doorways_rows;
  const BegunSpec *begun;
  int32_t begun_rows;
  const FieldSpec *fields;
  int32_t fields_rows;
  const PolicySpec *policy;
} PlanTables;

/* Schedules, resets and the sun as instants of the board's clock, in order of time. */
typedef struct {
  const ScheduleSpec *schedules;
  int32_t schedules_rows;
  const int64_t *span_from_ms;
  int32_t span_from_ms_rows;
  const int64_t *span_to_ms;
  int32_t span_to_ms_rows;
  const int64_t *moment_ms;
  int32_t moment_ms_rows;
  const SunSpec *suns;
  int32_t suns_rows;
  const int64_t *sun_ms;
  int32_t sun_ms_rows;
  const int8_t *sun_up;
  int32_t sun_up_rows;
  const ResetSpec *resets;
  int32_t resets_rows;
  const int64_t *reset_ms;
  int32_t reset_ms_rows;
} CalendarTables;

/* What comes in during a run, each kind in order of time. */
typedef struct {
  const int64_t *sample_ms;
  int32_t sample_ms_rows;
  const int64_t *sample_probe;
  int32_t sample_probe_rows;
  const double *sample_value;
  int32_t sample_value_rows;
  const Level *levels;
  int32_t levels_rows;
  const MessageRow *messages;
  int32_t messages_rows;
  const ClockRow *clock;
  int32_t clock_rows;
  const CutRow *cuts;
  int32_t cuts_rows;
} InputTables;

/* Where a run stands. */
typedef struct {
  Head *head;
  Cursor *cursor;
  ProbeNow *probes;
  int32_t probes_rows;
  Quiet *quiet;
  int32_t quiet_rows;
  double *ring;
  int32_t ring_rows;
  double *scratch;
  int32_t scratch_rows;
  SignalNow *signals;
  int32_t signals_rows;
  RateNow *rates;
  int32_t rates_rows;
  int64_t *rate_ms;
  int32_t rate_ms_rows;
  double *rate_values;
  int32_t rate_values_rows;
  ConditionNow *conditions;
  int32_t conditions_rows;
  LoadNow *loads;
  int32_t loads_rows;
  RuleNow *rules;
  int32_t rules_rows;
  LineNow *lines;
  int32_t lines_rows;
  int64_t *starts_ms;
  int32_t starts_ms_rows;
  int8_t *turns;
  int32_t turns_rows;
  InputNow *inputs;
  int32_t inputs_rows;
  ButtonNow *buttons;
  int32_t buttons_rows;
  SelectorNow *selectors;
  int32_t selectors_rows;
  int64_t *code_ms;
  int32_t code_ms_rows;
  int16_t *modes;
  int32_t modes_rows;
  ModeChangeNow *mode_changes;
  int32_t mode_changes_rows;
  DoorwayNow *doorways;
  int32_t doorways_rows;
  ScheduleNow *schedules;
  int32_t schedules_rows;
  int64_t *begun_ms;
  int32_t begun_ms_rows;
  MemoryNow *memory;
  SlotNow *slots;
  int32_t slots_rows;
  int64_t *slot_cells;
  int32_t slot_cells_rows;
  int64_t *before;
  int32_t before_rows;
  int64_t *cells;
  int32_t cells_rows;
  int64_t *base;
  int32_t base_rows;
  int64_t *snapshot;
  int32_t snapshot_rows;
} StateTables;

/* What comes out; a row beyond the room is counted and not written.

   `trace` is what each sample came to, filtered and calibrated (NaN where it did not enter the
   filter), `qualities` the quality in its wake; both are as long as somebody asked for. */
typedef struct {
  Counts *counts;
  EventRow *events;
  int32_t events_rows;
  LineRow *lines;
  int32_t lines_rows;
  WriteRow *writes;
  int32_t writes_rows;
  int64_t *cells;
  int32_t cells_rows;
  double *trace;
  int32_t trace_rows;
  int8_t *qualities;
  int32_t qualities_rows;
} OutTables;

/* What a scan is given. */
typedef struct {
  PlanTables plan;
  CalendarTables calendar;
  InputTables inputs;
  StateTables now;
  OutTables out;
} RunTables;

/* --- the scan */

static bool is_selector(const RunTables *run, int64_t author);
static void command(const RunTables *run, int64_t t_ms, int64_t load, int64_t want,
    int64_t author, int64_t asked_end, int64_t for_ms, int64_t until_ms, int64_t mode,
        int64_t value);
static void command_in_turn(const RunTables *run, int64_t t_ms, int64_t load, int64_t want,
    int64_t author, const ActionSpec *action);
static void waiting_commands(const RunTables *run, int64_t t_ms, int64_t at_ms);
static int64_t asked_level(const RunTables *run, int64_t load, int64_t t_ms);
static int64_t toggled_want(const RunTables *run, int64_t load, int64_t t_ms);
static void drop_turns(const RunTables *run, int64_t group, int64_t t_ms);
static void leave_mode(const RunTables *run, int64_t mode, int64_t value);
static void leave_position(const RunTables *run, int64_t author);
static void set_mode(const RunTables *run, int64_t t_ms, int64_t mode, int64_t wanted,
    int64_t author);
static void ask_reset(const RunTables *run, int64_t load, int64_t trip, int64_t author,
    int64_t t_ms);
static void free_drive(const RunTables *run, int64_t load, int64_t t_ms, int64_t author);
static void act(const RunTables *run, int64_t t_ms, int64_t first, int64_t end, int64_t author);
static void restore_override(const RunTables *run, int64_t load, int64_t cell);
static void restore_load(const RunTables *run, int64_t load, int64_t cell);
static void restore_lock(const RunTables *run, int64_t load, int64_t cell, int64_t end,
    int64_t t_ms);
static void restore_moments(const RunTables *run, int64_t s, int64_t cell);
static void restore_group(const RunTables *run, int64_t g, int64_t cell, int64_t t_ms);
static void end_with_modes(const RunTables *run);
static void restore(const RunTables *run, int64_t t_ms);
static void boot(const RunTables *run, int64_t t_ms, bool running);
static void boot_probes(const RunTables *run, int64_t t_ms);
static void boot_load(const RunTables *run, int64_t load, int64_t t_ms);
static void boot_loads(const RunTables *run, int64_t t_ms);
static void boot_conditions(const RunTables *run);
static int64_t first_after(const int64_t *instants, int64_t first, int64_t end, int64_t at_ms);
static void note_begun(const RunTables *run, int64_t s, int64_t at_ms);
static bool has_begun(const RunTables *run, int64_t s, int64_t at_ms);
static void begin_reached(const RunTables *run, int64_t s, int64_t t_ms, int64_t now_ms);
static void resume(const RunTables *run, int64_t s, int64_t t_ms, int64_t now_ms);
static void judge_schedules(const RunTables *run, int64_t t_ms);
static bool sun_is_up(const RunTables *run, int64_t sun, int64_t offset_ms, int64_t now_ms);
static int64_t next_of_calendar(const RunTables *run, int64_t t_ms);
static int64_t next_sun(const RunTables *run, int64_t sun, int64_t offset_ms, int64_t t_ms);
static void judge_unread(const RunTables *run, int64_t n, int64_t t_ms);
static void judge_value(const RunTables *run, int64_t n, int64_t t_ms);
static void judge_delay(const RunTables *run, int64_t n, int64_t t_ms);
static void judge_members(const RunTables *run, int64_t n, int64_t t_ms);
static bool load_is(const RunTables *run, int64_t load, int64_t state);
static bool read_other(const RunTables *run, int64_t n, int64_t t_ms);
static bool judge_some(const RunTables *run, int64_t t_ms, int64_t first, int64_t end);
static bool judge_conditions(const RunTables *run, int64_t t_ms);
static int64_t next_of_conditions(const RunTables *run, int64_t t_ms);
static bool opened_lately(const RunTables *run, int64_t line, int64_t dead_ms, int64_t t_ms,
    int64_t period_ms);
static bool barred(const RunTables *run, int64_t line, int64_t first, int64_t end, int64_t t_ms,
    int64_t period_ms);
static int64_t close_contacts(const RunTables *run, int64_t load, int64_t target, int64_t t_ms,
    int64_t period_ms);
static int64_t part_of_pattern(const RunTables *run, int64_t pattern, int64_t since_ms);
static bool dark_part(const RunTables *run, int64_t load, int64_t t_ms);
static void drive_lines(const RunTables *run, int64_t t_ms);
static int64_t next_of_contacts(const RunTables *run, int64_t t_ms, int64_t period_ms);
static double vapour_hpa(double temp_degc, double rh_pct);
static double rate_per_min(const RunTables *run, int64_t d);
static double combined(const RunTables *run, int64_t d);
static void derive(const RunTables *run);
static bool rises(const RunTables *run, int64_t i);
static void cross_doorways(const RunTables *run, int64_t at_ms);
static void reset_counts(const RunTables *run, int64_t t_ms);
static void reset_count(const RunTables *run, int64_t d, int64_t t_ms);
static int64_t next_reset(const RunTables *run);
static void boot_doorways(const RunTables *run);
static void hold_drive(const RunTables *run, int64_t load, int64_t t_ms);
static int64_t next_of_drives(const RunTables *run);
static void put_row(const RunTables *run, int64_t t_ms, int64_t kind, int64_t who, int64_t was,
    int64_t now, int64_t rule, int64_t author, int64_t decider, int64_t decided_by, int64_t want,
        int64_t inhibit, int64_t kept, int64_t cited, double value);
static void put_event(const RunTables *run, int64_t t_ms, int64_t kind, int64_t who, int64_t was,
    int64_t now, int64_t rule, int64_t author, double value);
static void put_line(const RunTables *run, int64_t t_ms, int64_t line, int64_t level);
static double middle(const RunTables *run, int64_t first, int64_t held);
static double of_the_last(const RunTables *run, int64_t p, double raw);
static int64_t starts_in_hour(const RunTables *run, int64_t load, int64_t t_ms);
static bool waits_for_dial(const RunTables *run, int64_t load, int64_t priority);
static int64_t held_back(const RunTables *run, int64_t load, int64_t want, int64_t priority,
    int64_t t_ms);
static void enter(const RunTables *run, int64_t load, int64_t state, int64_t t_ms);
static int64_t kept_back(const RunTables *run, int64_t load, int64_t state, int64_t priority);
static void hold_steady(const RunTables *run, int64_t load, int64_t t_ms, int64_t period_ms);
static int64_t next_of_holds(const RunTables *run, int64_t t_ms);
static void take_inputs(const RunTables *run, int64_t t_ms);
static void trace_sample(const RunTables *run, int64_t row);
static void lose_inputs(const RunTables *run, int64_t before_ms);
static int64_t next_input(const RunTables *run, int64_t end_ms);
static void find_levels(const RunTables *run, int64_t t_ms);
static int64_t level_at(const RunTables *run, int64_t i, int64_t t_ms);
static void begin_span(const RunTables *run);
static int64_t next_edge(const RunTables *run);
static void take_edges(const RunTables *run, int64_t at_ms);
static bool is_high(const RunTables *run, int64_t i);
static bool shown_high(const RunTables *run, int64_t i);
static void end_span(const RunTables *run);
static void let_go_of_lock(const RunTables *run, int64_t load, int64_t t_ms);
static void lock_out(const RunTables *run, int64_t load, int64_t t_ms);
static bool run_out(const RunTables *run, int64_t load, int64_t want, int64_t priority,
    int64_t target, int64_t t_ms);
static int64_t tick_at(int64_t start_ms, int64_t period_ms, int64_t at_ms);
static void scan_loop(const RunTables *run, int64_t start_ms, int64_t end_ms, int64_t period_ms,
    bool running, bool goes_on, bool skipping);
static void as_found(const RunTables *run);
static void choose_slot(const RunTables *run);
static void tear(const RunTables *run, int64_t after_bytes);
static void write_record(const RunTables *run, int64_t t_ms);
static bool differ(const int64_t *some, const int64_t *other, int64_t count);
static bool urgent(const RunTables *run);
static void seed(const RunTables *run, const int64_t *cells);
static bool never_written(const RunTables *run);
static void remember(const RunTables *run, int64_t t_ms);
static int64_t next_write(const RunTables *run, int64_t t_ms);
static void boot_mode_changes(const RunTables *run);
static bool change_modes(const RunTables *run, int64_t t_ms);
static int64_t end_of(int64_t at_open, int64_t at_shut);
static void read_ends(const RunTables *run, int64_t load, int64_t t_ms);
static bool explained(const RunTables *run, int64_t load, int64_t here, int64_t t_ms);
static void sense_drives(const RunTables *run, int64_t t_ms);
static void did_not_arrive(const RunTables *run, int64_t load, int64_t author, int64_t t_ms);
static void arrive(const RunTables *run, int64_t load, int64_t here, int64_t author, int64_t t_ms);
static int64_t time_is_over(const RunTables *run, int64_t load, int64_t here, int64_t author,
    int64_t t_ms);
static int64_t follow_movement(const RunTables *run, int64_t load, int64_t here, int64_t author,
    int64_t t_ms);
static int64_t unheard_rule(const RunTables *run, int64_t load);
static void note_change(const RunTables *run, int64_t load, int64_t was, int64_t state,
    int64_t rule, int64_t author, int64_t inhibit, int64_t kept, int64_t t_ms);
static void trust(const RunTables *run, int64_t t_ms);
static void decide(const RunTables *run, int64_t t_ms, int64_t period_ms);
static int64_t next_instant(const RunTables *run, int64_t t_ms, int64_t period_ms);
static int64_t state_of_want(const LoadSpec *spec, int64_t want);
static void judge_override(const RunTables *run, int64_t load, int64_t under, int64_t t_ms);
static bool override_asks(const RunTables *run, int64_t load);
static void hear_people(const RunTables *run, int64_t t_ms);
static void hear_messages(const RunTables *run, int64_t t_ms, int64_t at_ms);
static void hear_code(const RunTables *run, int64_t t_ms, int64_t code, int64_t at_ms);
static void speak(const RunTables *run, int64_t s, int64_t t_ms);
static void hold_positions(const RunTables *run, int64_t t_ms);
static void turn_selectors(const RunTables *run, int64_t t_ms, int64_t at_ms);
static void short_press(const RunTables *run, int64_t b, int64_t t_ms, int64_t at_ms,
    int64_t state);
static void press_due(const RunTables *run, int64_t b, int64_t t_ms, int64_t at_ms);
static void button_down(const RunTables *run, int64_t b, int64_t t_ms, int64_t at_ms);
static void button_up(const RunTables *run, int64_t b, int64_t t_ms, int64_t at_ms);
static void press_buttons(const RunTables *run, int64_t t_ms, int64_t at_ms);
static int64_t next_of_people(const RunTables *run);
static int64_t next_of_controls(const RunTables *run, int64_t t_ms);
static void boot_controls(const RunTables *run, int64_t t_ms);
static void power_off(const RunTables *run, int64_t cut, int64_t start_ms);
static void put_power(const RunTables *run, int64_t at_ms, int64_t was, int64_t now);
static int64_t put_cell(const RunTables *run, int64_t cell, int64_t value);
static int64_t gather_override(const RunTables *run, int64_t load, int64_t cell);
static int64_t gather_group(const RunTables *run, int64_t g, int64_t cell);
static int64_t gather_lock(const RunTables *run, int64_t load, int64_t cell, int64_t end);
static int64_t gather_moments(const RunTables *run, int64_t s, int64_t cell, int64_t end);
static bool gather(const RunTables *run);
static bool judge_trip(const RunTables *run, int64_t load, int64_t k, bool holds, int64_t t_ms);
static bool heard_since_boot(const RunTables *run, int64_t load, int64_t k);
static bool judge_rule(const RunTables *run, int64_t load, int64_t k, int64_t t_ms);
static void judge_decided(const RunTables *run, int64_t load);
static int64_t say(const RunTables *run, int64_t load, int64_t t_ms);
static int64_t want_of(const RunTables *run, int64_t load, int64_t k);
static bool somebody_listens(const RunTables *run);
static int64_t next_of_rules(const RunTables *run, int64_t t_ms);
static void quiet_bounds(const RunTables *run);
static bool stirred(const RunTables *run, int64_t p);
static bool only_feeds(const RunTables *run);
static int64_t skip_samples(const RunTables *run, int64_t timer_ms, int64_t t_ms,
    int64_t period_ms);
static int64_t judged(const ProbeSpec *spec, ProbeNow *now, int64_t t_ms, double raw);
static void remember_good(const RunTables *run, int64_t p, int64_t t_ms);
static double take_sample(const RunTables *run, int64_t p, int64_t t_ms, double raw);
static void judge_probes(const RunTables *run, int64_t t_ms);
static int64_t next_judgement(const RunTables *run, int64_t t_ms);
static int64_t sensed_now(const RunTables *run, int64_t load, int64_t t_ms);
static void sense_two_way(const RunTables *run, int64_t t_ms);
static void hold_two_way(const RunTables *run, int64_t load, int64_t t_ms);
static int64_t next_of_two_way(const RunTables *run);

/* --- What a press, a code, a position or a page does: override rules, modes, resets. */

/* Whether an author is a selector. */
static bool is_selector(const RunTables *run, int64_t author) {
  for (int32_t s = 0; s < run->plan.selectors_rows; s++) {
    if (run->plan.selectors[s].author == author) {
      return true;
    }
  }
  return false;
}

/* An override rule on a load, in place of the one that was there; it may end with a mode. */
static void command(const RunTables *run, int64_t t_ms, int64_t load, int64_t want,
    int64_t author, int64_t asked_end, int64_t for_ms, int64_t until_ms, int64_t mode,
        int64_t value) {
  const LoadSpec *spec = &run->plan.loads[load];
  LoadNow *now = &run->now.loads[load];
  Head *head = run->now.head;
  int64_t ends_by = asked_end == NONE ? spec->ends_by : asked_end;
  if (ends_by == ENDS_BY_POSITION && !is_selector(run, author)) {
    ends_by = ENDS_BY_AUTOMATIC;
  }
  int64_t end_ms = FOREVER;
  int64_t clock_end_ms = NO_END;
  if (ends_by == ENDS_BY_TIME) {
    if (until_ms != NO_END) {
      clock_end_ms = until_ms;
    } else {
      end_ms = t_ms + (for_ms == NONE ? spec->override_ms : for_ms);
    }
  }
  int64_t stored_ms = clock_end_ms;
  if (end_ms != FOREVER && head->clock_known == 1) {
    stored_ms = end_ms + head->clock_base_ms;
  }
  now->override = (int16_t)want;
  now->commanded_ms = t_ms;
  now->override_author = (int16_t)author;
  now->override_mode = (int16_t)mode;
  now->override_value = (int16_t)value;
  now->override_ends_by = (int8_t)ends_by;
  now->override_end_ms = end_ms;
  now->override_until_ms = clock_end_ms;
  now->override_asleep = 0;
  now->override_stored_ms = stored_ms;
  now->below = NO_STATE;
  now->blocked = NO_STATE;
  now->wait_ms = FOREVER;
}

/* A command to a load, of a group in its turn. */
static void command_in_turn(const RunTables *run, int64_t t_ms, int64_t load, int64_t want,
    int64_t author, const ActionSpec *action) {
  LoadNow *now = &run->now.loads[load];
  if (action->delay_ms == 0) {
    command(run, t_ms, load, want, author, action->ends_by, action->for_ms, action->until_ms,
        action->mode, action->value);
    return;
  }
  if (now->wait_group != action->group || now->wait_ms > t_ms) {
    now->wait_ms = t_ms + action->delay_ms;
  }
  now->wait = (int16_t)want;
  now->wait_author = (int16_t)author;
  now->wait_ends_by = action->ends_by;
  now->wait_for_ms = action->for_ms;
  now->wait_until_ms = action->until_ms;
  now->wait_mode = action->mode;
  now->wait_value = action->value;
  now->wait_group = action->group;
}

/* What a group was told, taken by the loads whose turn has come. */
static void waiting_commands(const RunTables *run, int64_t t_ms, int64_t at_ms) {
  for (int32_t load = 0; load < run->plan.loads_rows; load++) {
    LoadNow *now = &run->now.loads[load];
    if (at_ms >= now->wait_ms) {
      command(run, t_ms, load, now->wait, now->wait_author, now->wait_ends_by, now->wait_for_ms,
          now->wait_until_ms, now->wait_mode, now->wait_value);
    }
  }
}

/* The state that a person goes by: the load's, or what was wanted earlier in this scan. */
static int64_t asked_level(const RunTables *run, int64_t load, int64_t t_ms) {
  LoadNow *now = &run->now.loads[load];
  if (now->override == NONE || now->commanded_ms != t_ms) {
    return now->state;
  }
  if (now->override == WANT_OFF || now->override == WANT_SHUT) {
    return 0;
  }
  if (now->override >= WANT_LEVEL) {
    return now->override - WANT_LEVEL;
  }
  return most(1, run->plan.loads[load].lowest);
}

/* The want that is the other one than a load's state now. */
static int64_t toggled_want(const RunTables *run, int64_t load, int64_t t_ms) {
  const LoadSpec *spec = &run->plan.loads[load];
  bool off = asked_level(run, load, t_ms) == 0;
  if (spec->valve == 1 || spec->kind == KIND_DRIVE) {
    return off ? WANT_OPEN : WANT_SHUT;
  }
  return off ? WANT_ON : WANT_OFF;
}

/* A new command of a group takes the place of what is left of the one before.

   A member whose turn comes in this very scan keeps it, and takes the new command. */
static void drop_turns(const RunTables *run, int64_t group, int64_t t_ms) {
  for (int32_t load = 0; load < run->plan.loads_rows; load++) {
    LoadNow *now = &run->now.loads[load];
    if (now->wait_group == group && now->wait_ms > t_ms) {
      now->wait_ms = FOREVER;
    }
  }
}

/* A mode is left: what was to end with it ends. */
static void leave_mode(const RunTables *run, int64_t mode, int64_t value) {
  for (int32_t load = 0; load < run->plan.loads_rows; load++) {
    LoadNow *now = &run->now.loads[load];
    if (now->override != NONE && now->override_mode == mode && now->override_value != value) {
      now->override = NONE;
    }
    if (now->wait_ms != FOREVER && now->wait_mode == mode && now->wait_value != value) {
      now->wait_ms = FOREVER;
    }
  }
}

/* Another position of a selector acts: what its last one ruled is given back. */
static void leave_position(const RunTables *run, int64_t author) {
  for (int32_t load = 0; load < run->plan.loads_rows; load++) {
    LoadNow *now = &run->now.loads[load];
    if (now->override != NONE && now->override_ends_by == ENDS_BY_POSITION
        && now->override_author == author) {
      now->override = NONE;
    }
    if (now->wait_ms != FOREVER && now->wait_author == author) {
      int32_t ends_by = now->wait_ends_by;
      if (ends_by == NONE) {
        ends_by = run->plan.loads[load].ends_by;
      }
      if (ends_by == ENDS_BY_POSITION) {
        now->wait_ms = FOREVER;
      }
    }
  }
}

/* A mode takes on a value, or its next one. */
static void set_mode(const RunTables *run, int64_t t_ms, int64_t mode, int64_t wanted,
    int64_t author) {
  int32_t was = run->now.modes[mode];
  int64_t value = wanted;
  if (wanted == NEXT_VALUE) {
    value = remainder_of((int64_t)was + 1, run->plan.modes[mode].values);
  }
  run->now.modes[mode] = (int16_t)value;
  if (value != was) {
    leave_mode(run, mode, value);
    put_event(run, t_ms, EVENT_MODE, mode, was, value, 0, author, 0.0);
  }
}

/* A person resets a trip of a load, or all of them and what else locks it out. */
static void ask_reset(const RunTables *run, int64_t load, int64_t trip, int64_t author,
    int64_t t_ms) {
  const LoadSpec *spec = &run->plan.loads[load];
  for (int32_t k = spec->first; k < spec->override; k++) {
    RuleNow *now = &run->now.rules[k];
    if (run->plan.rules[k].priority == PRIORITY_TRIP && (trip == ALL_TRIPS || trip == k)) {
      if (now->tripped == 1) {
        now->reset = (int16_t)(1 + author);
      }
    }
  }
  if (trip == ALL_TRIPS && spec->tries > 0) {
    free_drive(run, load, t_ms, author);
  }
}

/* A drive that did not arrive may try again. */
static void free_drive(const RunTables *run, int64_t load, int64_t t_ms, int64_t author) {
  LoadNow *now = &run->now.loads[load];
  if (now->not_arriving == 1) {
    put_event(run, t_ms, EVENT_MISSED, load, now->state, MISSED_RESET, 0, author, 0.0);
  }
  now->not_arriving = 0;
  now->failed = 0;
  now->blocked = NO_STATE;
}

/* All that one press, code, position or message does. */
static void act(const RunTables *run, int64_t t_ms, int64_t first, int64_t end, int64_t author) {
  int64_t first_asks = first;
  for (int64_t row = first; row < end; row++) {
    if (row < first_asks) {
      continue;
    }
    const ActionSpec *action = &run->plan.actions[row];
    int32_t who = action->who;
    if (action->kind == ACT_ONLY) {
      if (run->now.modes[who] != action->want) {
        first_asks = row + 1 + action->by;
      }
    } else if (action->kind == ACT_GROUP) {
      drop_turns(run, who, t_ms);
    } else if (action->kind == ACT_OVERRIDE) {
      command_in_turn(run, t_ms, who, action->want, author, action);
    } else if (action->kind == ACT_TOGGLE) {
      command_in_turn(run, t_ms, who, toggled_want(run, who, t_ms), author, action);
    } else if (action->kind == ACT_AUTOMATIC) {
      run->now.loads[who].override = NONE;
      run->now.loads[who].wait_ms = FOREVER;
    } else if (action->kind == ACT_STEP) {
      int64_t stepped = most(asked_level(run, who, t_ms) + action->by, 0);
      int64_t level = least(stepped, run->plan.loads[who].steps);
      int64_t want = level > 0 ? WANT_LEVEL + level : WANT_OFF;
      command_in_turn(run, t_ms, who, want, author, action);
    } else if (action->kind == ACT_MODE) {
      set_mode(run, t_ms, who, action->want, author);
    } else if (action->kind == ACT_RESET) {
      ask_reset(run, who, action->want, author, t_ms);
    }
  }
  run->now.head->stirred = 1;
}

/* --- What a boot forgets, what it finds in memory, and how each load comes back. */

/* An override rule that was retained; one for a time speaks once the clock is known. */
static void restore_override(const RunTables *run, int64_t load, int64_t cell) {
  LoadNow *now = &run->now.loads[load];
  int64_t end_ms = run->now.base[cell + OVERRIDE_END];
  if (run->now.base[cell + OVERRIDE_THERE] == 0 || run->plan.loads[load].policy == POLICY_OFF) {
    return;
  }
  int64_t ends_by = run->now.base[cell + OVERRIDE_ENDS_BY];
  if (ends_by == ENDS_BY_POSITION) {
    return; /* its position is read first */
  }
  if (ends_by == ENDS_BY_TIME && end_ms == NO_END) {
    return; /* its end was not known when it was written */
  }
  now->override = (int16_t)run->now.base[cell + OVERRIDE_WANT];
  now->override_author = (int16_t)run->now.base[cell + OVERRIDE_AUTHOR];
  now->override_ends_by = (int8_t)ends_by;
  now->override_mode = (int16_t)run->now.base[cell + OVERRIDE_MODE];
  now->override_value = (int16_t)run->now.base[cell + OVERRIDE_VALUE];
  now->override_end_ms = FOREVER;
  now->override_until_ms = end_ms;
  now->override_stored_ms = end_ms;
  now->override_asleep = ends_by == ENDS_BY_TIME ? 1 : 0;
}

/* The state that a load had, where it returns to that. */
static void restore_load(const RunTables *run, int64_t load, int64_t cell) {
  int32_t slot = run->now.memory->slot;
  if (run->plan.loads[load].policy == POLICY_LAST && slot != NONE) {
    if (run->now.slot_cells[(int64_t)slot * run->now.cells_rows + cell] != ABSENT) {
      run->now.loads[load].last = (int16_t)run->now.base[cell];
    }
  }
}

/* A lock-out that was retained; its rest counts anew from the boot. */
static void restore_lock(const RunTables *run, int64_t load, int64_t cell, int64_t end,
    int64_t t_ms) {
  LoadNow *now = &run->now.loads[load];
  int32_t first = run->plan.loads[load].first;
  if (run->now.base[cell + LOCK_THERE] == 0) {
    return;
  }
  now->locked = 1;
  now->lock_ms = t_ms;
  now->relock = 1;
  now->lock_author = (int16_t)run->now.base[cell + LOCK_AUTHOR];
  for (int64_t at = cell + LOCK_FIRST; at < end; at++) {
    run->now.rules[first + at - cell - LOCK_FIRST].noted = (int8_t)run->now.base[at];
  }
}

/* The moments of a schedule that had begun. */
static void restore_moments(const RunTables *run, int64_t s, int64_t cell) {
  const BegunSpec *own = &run->plan.begun[s];
  int64_t held = least(run->now.base[cell + MOMENTS_HELD], own->room);
  run->now.schedules[s].held = (int16_t)held;
  run->now.schedules[s].resumes = run->calendar.schedules[s].catch_up == 1 ? 1 : 0;
  for (int64_t i = 0; i < held; i++) {
    run->now.begun_ms[own->first + i] = run->now.base[cell + MOMENTS_FIRST + i];
  }
}

/* What a cut left of a group command: its members follow, the first after the boot delay. */
static void restore_group(const RunTables *run, int64_t g, int64_t cell, int64_t t_ms) {
  const GroupSpec *spec = &run->plan.groups[g];
  int64_t ends_by = run->now.base[cell + GROUP_ENDS_BY];
  if (ends_by == ENDS_BY_POSITION) {
    return;
  }
  int64_t at_ms = t_ms + spec->boot_ms;
  for (int32_t i = spec->first; i < spec->end; i++) {
    int64_t want = run->now.base[cell + GROUP_FIRST + i - spec->first] - 1;
    int32_t load = run->plan.group_members[i];
    if (want == NONE || run->plan.loads[load].policy == POLICY_OFF) {
      continue;
    }
    LoadNow *now = &run->now.loads[load];
    now->wait_ms = at_ms;
    now->wait = (int16_t)want;
    now->wait_group = (int16_t)g;
    now->wait_author = (int16_t)run->now.base[cell + GROUP_AUTHOR];
    now->wait_ends_by = (int8_t)ends_by;
    now->wait_for_ms = run->now.base[cell + GROUP_FOR];
    now->wait_until_ms = run->now.base[cell + GROUP_UNTIL];
    now->wait_mode = (int16_t)run->now.base[cell + GROUP_MODE];
    now->wait_value = (int16_t)run->now.base[cell + GROUP_VALUE];
    at_ms += spec->stagger_ms;
  }
}

/* What ends with a mode comes back only where the mode is that value. */
static void end_with_modes(const RunTables *run) {
  for (int32_t load = 0; load < run->plan.loads_rows; load++) {
    LoadNow *now = &run->now.loads[load];
    if (now->override != NONE && now->override_mode != NONE) {
      if (run->now.modes[now->override_mode] != now->override_value) {
        now->override = NONE;
      }
    }
    if (now->wait_ms != FOREVER && now->wait_mode != NONE) {
      if (run->now.modes[now->wait_mode] != now->wait_value) {
        now->wait_ms = FOREVER;
      }
    }
  }
}

/* Take from memory what was retained. */
static void restore(const RunTables *run, int64_t t_ms) {
  for (int32_t f = 0; f < run->plan.fields_rows; f++) {
    const FieldSpec *field = &run->plan.fields[f];
    int32_t kind = field->kind;
    int32_t who = field->who;
    int32_t cell = field->cell;
    if (kind == FIELD_LOAD) {
      restore_load(run, who, cell);
    } else if (kind == FIELD_MODE) {
      run->now.modes[who] = (int16_t)run->now.base[cell];
    } else if (kind == FIELD_COUNT) {
      run->now.doorways[who].count = (int32_t)run->now.base[cell];
    } else if (kind == FIELD_BAND) {
      run->now.conditions[who].now = (int8_t)run->now.base[cell];
      run->now.conditions[who].own = (int8_t)run->now.base[cell];
    } else if (kind == FIELD_TRIP) {
      run->now.rules[who].tripped = (int8_t)run->now.base[cell];
    } else if (kind == FIELD_NOT_ARRIVING) {
      run->now.loads[who].not_arriving = (int8_t)run->now.base[cell];
    } else if (kind == FIELD_OVERRIDE) {
      restore_override(run, who, cell);
    } else if (kind == FIELD_LOCK) {
      restore_lock(run, who, cell, field->end, t_ms);
    } else if (kind == FIELD_MOMENTS) {
      restore_moments(run, who, cell);
    } else if (kind == FIELD_GROUP) {
      restore_group(run, who, cell, t_ms);
    }
  }
  end_with_modes(run);
}

/* State after power came back and the program began, at `t_ms`, or at the start of a run.

   A run that begins in the middle (`running`) obeys no boot rule: nothing is restored, nothing
   held at its start, and no boot is noted. */
static void boot(const RunTables *run, int64_t t_ms, bool running) {
  Head *head = run->now.head;
  head->booted_ms = t_ms;
  head->clock_low_ms = t_ms + head->clock_base_ms;
  head->first = 1;
  head->free = running ? 1 : 0;
  head->listens = 1;
  head->lines = 1;
  boot_probes(run, t_ms);
  boot_conditions(run);
  boot_mode_changes(run);
  find_levels(run, t_ms);
  boot_controls(run, t_ms);
  boot_doorways(run);
  for (int32_t s = 0; s < run->calendar.schedules_rows; s++) {
    ScheduleNow *schedule = &run->now.schedules[s];
    schedule->until_ms = NEVER;
    schedule->next = run->calendar.schedules[s].moment;
    schedule->active = 0;
    schedule->held = 0;
    schedule->resumes = 0;
  }
  boot_loads(run, t_ms);
  choose_slot(run);
  as_found(run);
  if (running) {
    return;
  }
  if (head->seeds == 1 && never_written(run)) {
    /* In service, but without power from the run's first instant: it holds the defaults. */
    seed(run, run->now.base);
  }
  restore(run, t_ms);
  MemoryNow *memory = run->now.memory;
  put_event(run, t_ms, EVENT_BOOT, 0, memory->slot, memory->sequence, 0, NOBODY, 0.0);
}

/* --- What probes, loads and conditions are at a boot, before anything is restored. */

/* Filters, qualities and values begin anew; everything is counted from the boot itself. */
static void boot_probes(const RunTables *run, int64_t t_ms) {
  for (int32_t p = 0; p < run->plan.probes_rows; p++) {
    ProbeNow *now = &run->now.probes[p];
    now->filtered = NAN;
    now->value = NAN;
    now->anchor = NAN;
    now->base = NAN;
    now->jumped = NAN;
    now->last_ms = t_ms;
    now->good_ms = t_ms;
    now->anchor_ms = t_ms;
    now->entered_ms = t_ms;
    now->base_ms = t_ms;
    now->jumped_ms = t_ms;
    now->jumped_count = 0;
    now->quality = WARMING;
    now->good_count = 0;
    now->held = 0;
    now->next = 0;
    now->been_good = 0;
  }
  for (int32_t row = 0; row < run->now.signals_rows; row++) {
    run->now.signals[row].good = 0;
    run->now.signals[row].good_ms = t_ms;
    run->now.signals[row].value = NAN;
  }
  for (int32_t d = 0; d < run->plan.derived_rows; d++) {
    run->now.rates[d].first = 0;
    run->now.rates[d].held = 0;
  }
}

/* A load as it is without power, and as if nobody had ever asked for it. */
static void boot_load(const RunTables *run, int64_t load, int64_t t_ms) {
  const LoadSpec *spec = &run->plan.loads[load];
  LoadNow *now = &run->now.loads[load];
  now->state = spec->unpowered;
  now->on_ms = t_ms;
  now->off_ms = run->now.head->free == 1 ? NEVER : t_ms;
  now->decider = NO_DECIDER;
  now->author = NOBODY;
  now->want = 0;
  now->inhibit = INHIBIT_NONE;
  now->cited = NO_DECIDER;
  now->asker = NOBODY;
  now->kept = INHIBIT_NONE;
  now->kept_for = NO_STATE;
  now->locked = 0;
  now->lock_ms = 0;
  now->relock = 0;
  now->lock_author = 0;
  now->override = NONE;
  now->commanded_ms = NEVER;
  now->override_author = NOBODY;
  now->override_mode = NONE;
  now->override_value = NONE;
  now->wait_group = NONE;
  now->wait_mode = NONE;
  now->wait_value = NONE;
  now->override_ends_by = 0;
  now->override_end_ms = 0;
  now->override_until_ms = 0;
  now->override_asleep = 0;
  now->override_stored_ms = 0;
  now->below = NO_STATE;
  now->last = NONE;
  now->decided = 0;
  now->pattern_ms = t_ms;
  now->pulse_ms = NEVER;
  now->sensed = UNSENSED;
  now->toggled_ms = NEVER;
  now->tried = 0;
  now->unasked = 0;
  now->blocked = NO_STATE;
  now->move_ms = NEVER;
  now->pulsed_ms = NEVER;
  now->failed = 0;
  now->not_arriving = 0;
  now->late = 0;
  now->late_want = NO_WISH;
  now->unplaced = 1;
  now->measured = 0;
  now->outside = 0;
  now->at_open = 0;
  now->at_shut = 0;
  now->starts_next = 0;
  now->starts_held = 0;
  now->wait_ms = FOREVER;
}

/* Every load as it is without power; every rule as if it had never spoken. */
static void boot_loads(const RunTables *run, int64_t t_ms) {
  for (int32_t load = 0; load < run->plan.loads_rows; load++) {
    const LoadSpec *spec = &run->plan.loads[load];
    LoadNow *now = &run->now.loads[load];
    boot_load(run, load, t_ms);
    for (int32_t k = spec->first; k < spec->last + 1; k++) {
      int32_t priority = run->plan.rules[k].priority;
      RuleNow *rule = &run->now.rules[k];
      if (now->asker == NOBODY && (priority == PRIORITY_SCHEDULE || priority == PRIORITY_DEMAND)) {
        now->asker = (int16_t)k;
      }
      rule->tripped = 0;
      rule->began_ms = FOREVER;
      rule->was = NONE;
      rule->fresh = 0;
      rule->active = 0;
      rule->asking = 0;
      rule->noted = 0;
      rule->reset = 0;
      rule->still = 0;
    }
  }
  for (int32_t line = 0; line < run->plan.lines_rows; line++) {
    run->now.lines[line].closed = 0;
    run->now.lines[line].opened_ms = NEVER;
  }
}

/* After a boot every condition is off, no delay runs, and what is found is no edge. */
static void boot_conditions(const RunTables *run) {
  for (int32_t n = 0; n < run->plan.conditions_rows; n++) {
    ConditionNow *now = &run->now.conditions[n];
    now->now = 0;
    now->own = 0;
    now->member = UNSEEN;
    now->since_ms = NEVER;
    now->let_go = 0;
    now->good = 0;
    now->dark = LIT;
    now->letting = 0;
  }
}

/* --- Schedules and the sun, read from instants of the board's clock; never by calendar
   arithmetic. */

/* The first place in a sorted span whose instant lies after `at_ms`; the end where none. */
static int64_t first_after(const int64_t *instants, int64_t first, int64_t end, int64_t at_ms) {
  while (first < end) {
    int64_t half = (first + end) >> 1; /* // costs as much as the rest */
    if (instants[half] <= at_ms) {
      first = half + 1;
    } else {
      end = half;
    }
  }
  return first;
}

/* Remember a moment that has begun; those a day or more before the newest are forgotten. */
static void note_begun(const RunTables *run, int64_t s, int64_t at_ms) {
  ScheduleNow *now = &run->now.schedules[s];
  const BegunSpec *own = &run->plan.begun[s];
  int32_t first = own->first;
  int32_t held = now->held;
  int64_t newest = held == 0 ? at_ms : most(at_ms, run->now.begun_ms[(int64_t)first + held - 1]);
  int64_t kept = 0;
  for (int32_t i = 0; i < held; i++) {
    if (run->now.begun_ms[(int64_t)first + i] > newest - MS_PER_DAY) {
      run->now.begun_ms[first + kept] = run->now.begun_ms[(int64_t)first + i];
      kept++;
    }
  }
  if (at_ms > newest - MS_PER_DAY && kept < own->room) {
    int64_t place = kept;
    while (place > 0 && run->now.begun_ms[first + place - 1] > at_ms) {
      run->now.begun_ms[first + place] = run->now.begun_ms[first + place - 1];
      place--;
    }
    run->now.begun_ms[first + place] = at_ms;
    kept++;
  }
  now->held = (int16_t)kept;
}

/* Whether a moment has begun before, as far as it is remembered. */
static bool has_begun(const RunTables *run, int64_t s, int64_t at_ms) {
  int32_t first = run->plan.begun[s].first;
  for (int32_t i = 0; i < run->now.schedules[s].held; i++) {
    if (run->now.begun_ms[(int64_t)first + i] == at_ms) {
      return true;
    }
  }
  return false;
}

/* Begin the moments that the clock has reached while it was known without a break. */
static void begin_reached(const RunTables *run, int64_t s, int64_t t_ms, int64_t now_ms) {
  const ScheduleSpec *spec = &run->calendar.schedules[s];
  ScheduleNow *now = &run->now.schedules[s];
  int64_t moment = first_after(run->calendar.moment_ms, spec->moment, spec->moment_end,
      now_ms - spec->for_ms);
  while (moment < spec->moment_end && run->calendar.moment_ms[moment] <= now_ms) {
    int64_t moment_ms = run->calendar.moment_ms[moment];
    if (run->now.head->clock_low_ms <= moment_ms && !has_begun(run, s, moment_ms)) {
      now->until_ms = t_ms + moment_ms + spec->for_ms - now_ms;
      note_begun(run, s, moment_ms);
    }
    moment++;
  }
  now->next = (int32_t)moment;
}

/* Go on with the retained moments that a cut broke off and whose end has not come. */
static void resume(const RunTables *run, int64_t s, int64_t t_ms, int64_t now_ms) {
  const ScheduleSpec *spec = &run->calendar.schedules[s];
  ScheduleNow *now = &run->now.schedules[s];
  const BegunSpec *own = &run->plan.begun[s];
  now->resumes = 0;
  for (int32_t i = 0; i < now->held; i++) {
    int64_t begun_ms = run->now.begun_ms[(int64_t)own->first + i];
    int64_t over_ms = begun_ms + spec->for_ms;
    if (begun_ms <= now_ms && now_ms < over_ms) {
      now->until_ms = t_ms + over_ms - now_ms;
    }
  }
}

/* Whether each schedule is active now: windows by the clock, moments each once and on time. */
static void judge_schedules(const RunTables *run, int64_t t_ms) {
  bool known = run->now.head->clock_known == 1;
  int64_t now_ms = t_ms + run->now.head->clock_base_ms;
  for (int32_t s = 0; s < run->calendar.schedules_rows; s++) {
    const ScheduleSpec *spec = &run->calendar.schedules[s];
    ScheduleNow *now = &run->now.schedules[s];
    int32_t active = 0;
    if (known && spec->first < spec->end) {
      /* Spans of a schedule are merged: apart and in order. */
      int64_t at = first_after(run->calendar.span_from_ms, spec->first, spec->end, now_ms) - 1;
      if (at >= spec->first && now_ms < run->calendar.span_to_ms[at]) {
        active = 1;
      }
    }
    if (t_ms >= now->until_ms) {
      now->until_ms = NEVER;
    }
    if (known && spec->catch_up == 0) {
      begin_reached(run, s, t_ms, now_ms);
    } else if (known) {
      if (now->resumes == 1) {
        resume(run, s, t_ms, now_ms);
      }
      int64_t moment = most(now->next, spec->moment);
      while (moment < spec->moment_end && run->calendar.moment_ms[moment] <= now_ms) {
        int64_t moment_ms = run->calendar.moment_ms[moment];
        int64_t over_ms = moment_ms + spec->for_ms;
        if (now_ms < over_ms && !has_begun(run, s, moment_ms)) {
          now->until_ms = t_ms + over_ms - now_ms;
          note_begun(run, s, moment_ms);
        }
        moment++;
      }
      now->next = (int32_t)moment;
    }
    if (now->until_ms != NEVER) {
      active = 1;
    } else if (!known) {
      active = spec->unknown;
    }
    now->active = (int8_t)active;
  }
}

/* Whether the sun is up by its last instant, plus an offset, at or before the clock. */
static bool sun_is_up(const RunTables *run, int64_t sun, int64_t offset_ms, int64_t now_ms) {
  const SunSpec *spec = &run->calendar.suns[sun];
  int64_t at = first_after(run->calendar.sun_ms, spec->first, spec->end, now_ms - offset_ms) - 1;
  if (at < spec->first) {
    return spec->up == 1;
  }
  return run->calendar.sun_up[at] == 1;
}

/* The first instant after `t_ms` at which a schedule changes, as the clock is now. */
static int64_t next_of_calendar(const RunTables *run, int64_t t_ms) {
  int64_t first = FOREVER;
  int64_t base_ms = run->now.head->clock_base_ms;
  int64_t now_ms = t_ms + base_ms;
  for (int32_t s = 0; s < run->calendar.schedules_rows; s++) {
    const ScheduleSpec *spec = &run->calendar.schedules[s];
    ScheduleNow *now = &run->now.schedules[s];
    if (now->until_ms != NEVER) {
      first = least(first, now->until_ms);
    }
    if (run->now.head->clock_known == 0) {
      continue;
    }
    int64_t at = first_after(run->calendar.span_from_ms, spec->first, spec->end, now_ms);
    if (at < spec->end) {
      first = least(first, run->calendar.span_from_ms[at] - base_ms);
    }
    if (at > spec->first && run->calendar.span_to_ms[at - 1] > now_ms) {
      first = least(first, run->calendar.span_to_ms[at - 1] - base_ms);
    }
    int64_t moment = most(now->next, spec->moment);
    if (moment < spec->moment_end) {
      first = least(first, run->calendar.moment_ms[moment] - base_ms);
    }
  }
  return first;
}

/* The first instant after `t_ms` at which the sun, with an offset, changes. */
static int64_t next_sun(const RunTables *run, int64_t sun, int64_t offset_ms, int64_t t_ms) {
  const SunSpec *spec = &run->calendar.suns[sun];
  int64_t base_ms = run->now.head->clock_base_ms;
  int64_t at = first_after(run->calendar.sun_ms, spec->first, spec->end,
      t_ms + base_ms - offset_ms);
  return at < spec->end ? run->calendar.sun_ms[at] + offset_ms - base_ms : FOREVER;
}

/* --- Conditions: every one of them in every scan, members before what is made of them. */

/* While its value is not good a condition keeps what it said, or counts as is stated. */
static void judge_unread(const RunTables *run, int64_t n, int64_t t_ms) {
  const ConditionSpec *spec = &run->plan.conditions[n];
  ConditionNow *now = &run->now.conditions[n];
  now->good = 0;
  if (spec->without == KEEP || t_ms - run->now.signals[spec->signal].good_ms < spec->keep_ms) {
    now->dark = KEPT;
    now->now = now->own;
    return;
  }
  now->dark = STATED;
  now->own = 0;
  now->now = spec->without == STATED_TRUE ? 1 : 0;
}

/* A band, or a range, on one value. */
static void judge_value(const RunTables *run, int64_t n, int64_t t_ms) {
  const ConditionSpec *spec = &run->plan.conditions[n];
  ConditionNow *now = &run->now.conditions[n];
  SignalNow *signal = &run->now.signals[spec->signal];
  now->let_go = 0;
  if (signal->good == 0) {
    judge_unread(run, n, t_ms);
    return;
  }
  now->good = 1;
  now->dark = LIT;
  double value = signal->value;
  if (spec->kind == NODE_WITHIN) {
    bool inside = spec->on <= value && value < spec->off;
    now->own = inside ? 1 : 0;
    now->now = now->own;
    now->let_go = inside ? 0 : 1;
    return;
  }
  bool rising = spec->rising == 1;
  if (rising ? value >= spec->on : value <= spec->on) {
    now->own = 1;
  } else if (rising ? value <= spec->off : value >= spec->off) {
    now->own = 0;
    now->let_go = 1;
  }
  now->now = now->own;
}

/* `true for`: a member must be unlike the result, without a break, for the delay. */
static void judge_delay(const RunTables *run, int64_t n, int64_t t_ms) {
  const ConditionSpec *spec = &run->plan.conditions[n];
  ConditionNow *now = &run->now.conditions[n];
  ConditionNow *member = &run->now.conditions[run->plan.condition_members[spec->first]];
  now->good = member->good;
  if (member->dark == KEPT) { /* the delay begins anew when the value is good again */
    now->member = UNSEEN;
    return;
  }
  int32_t says = member->now;
  /* a stated result begins it anew */
  int64_t state = member->dark == STATED ? (int64_t)says + ON_STATED : says;
  if (now->member != state) {
    now->member = (int8_t)state;
    now->since_ms = t_ms;
  }
  int64_t wait_ms = says == 1 ? spec->on_ms : spec->off_ms;
  if (says != now->now && t_ms - now->since_ms >= wait_ms) {
    now->now = (int8_t)says;
  }
  bool letting = says == 0 && (now->letting == 1 || member->let_go == 1);
  now->letting = letting ? 1 : 0;
  now->let_go = letting && now->now == 0 ? 1 : 0;
}

/* All, any, not, and a pulse from an edge. */
static void judge_members(const RunTables *run, int64_t n, int64_t t_ms) {
  const ConditionSpec *spec = &run->plan.conditions[n];
  ConditionNow *now = &run->now.conditions[n];
  bool every = true;
  bool some = false;
  bool good = true;
  bool go_every = true;
  bool go_some = false;
  for (int32_t index = spec->first; index < spec->end; index++) {
    ConditionNow *member = &run->now.conditions[run->plan.condition_members[index]];
    if (member->now == 1) {
      some = true;
    } else {
      every = false;
    }
    if (member->good == 0) {
      good = false;
    }
    if (member->let_go == 1) {
      go_some = true;
    } else {
      go_every = false;
    }
  }
  now->good = good ? 1 : 0;
  if (spec->kind == NODE_ALL) {
    now->now = every ? 1 : 0;
    now->let_go = go_some ? 1 : 0;
  } else if (spec->kind == NODE_ANY) {
    now->now = some ? 1 : 0;
    now->let_go = go_every ? 1 : 0;
  } else if (spec->kind == NODE_NOT) {
    now->now = some ? 0 : 1;
    now->let_go = some && good ? 1 : 0;
  } else {
    if (now->since_ms == NEVER || t_ms - now->since_ms >= spec->on_ms) {
      now->since_ms = NEVER;
      if (some && now->member == 0) {
        now->since_ms = t_ms;
      }
    }
    now->member = some ? 1 : 0;
    now->now = now->since_ms != NEVER ? 1 : 0;
    now->let_go = now->now == 0 && good ? 1 : 0;
  }
}

/* Whether a load is in a state, on at all, or missed what it was told. */
static bool load_is(const RunTables *run, int64_t load, int64_t state) {
  LoadNow *now = &run->now.loads[load];
  if (state == LOAD_MISSED) {
    return now->blocked != NO_STATE || now->not_arriving == 1;
  }
  return state == LOAD_ANY_ON ? now->state != 0 : now->state == state;
}

/* What a condition says that reads no value of a probe. */
static bool read_other(const RunTables *run, int64_t n, int64_t t_ms) {
  const ConditionSpec *spec = &run->plan.conditions[n];
  int32_t kind = spec->kind;
  int32_t a = spec->a;
  int32_t b = spec->b;
  if (kind == NODE_INPUT) {
    return shown_high(run, a) == (b == 1);
  }
  if (kind == NODE_MODE) {
    return run->now.modes[a] == b;
  }
  if (kind == NODE_LOAD) {
    return load_is(run, a, b);
  }
  if (kind == NODE_COUNT) {
    return run->now.doorways[a].count > b;
  }
  if (kind == NODE_QUALITY) {
    return ((b >> run->now.probes[a].quality) & 1) == 1;
  }
  if (kind == NODE_SCHEDULE) {
    return run->now.schedules[a].active == 1;
  }
  bool known = run->now.head->clock_known == 1;
  if (kind == NODE_SUN) {
    if (!known) {
      return spec->off_ms == 1;
    }
    int64_t now_ms = t_ms + run->now.head->clock_base_ms;
    return sun_is_up(run, a, spec->on_ms, now_ms) == (b == 1);
  }
  return kind == NODE_CLOCK ? known : true;
}

/* The results of the conditions from row `first` up to but not `end`; whether one is new. */
static bool judge_some(const RunTables *run, int64_t t_ms, int64_t first, int64_t end) {
  bool changed = false;
  for (int64_t n = first; n < end; n++) {
    const ConditionSpec *spec = &run->plan.conditions[n];
    ConditionNow *now = &run->now.conditions[n];
    int32_t says = now->now;
    int32_t good = now->good;
    int32_t let_go = now->let_go;
    int32_t dark = now->dark;
    if (spec->kind <= NODE_WITHIN) {
      judge_value(run, n, t_ms);
    } else if (spec->kind == NODE_FOR) {
      judge_delay(run, n, t_ms);
    } else if (spec->kind == NODE_ALL || spec->kind == NODE_ANY || spec->kind == NODE_NOT
        || spec->kind == NODE_PULSE) {
      judge_members(run, n, t_ms);
    } else {
      bool holds = read_other(run, n, t_ms);
      now->now = holds ? 1 : 0;
      now->good = 1;
      now->let_go = holds ? 0 : 1;
    }
    if (spec->named == 1 && now->now != now->seen) {
      put_event(run, t_ms, EVENT_CONDITION, n, now->seen, now->now, 0, NOBODY, 0.0);
      now->seen = now->now;
    }
    if (says != now->now || good != now->good || let_go != now->let_go || dark != now->dark) {
      changed = true;
    }
  }
  return changed;
}

/* The result of every condition in this scan; whether one is new, or a mode is set.

   Those that set a mode come first, so that all others see the mode of this scan. */
static bool judge_conditions(const RunTables *run, int64_t t_ms) {
  int32_t end = run->plan.conditions_rows;
  if (run->plan.mode_changes_rows == 0) {
    return judge_some(run, t_ms, 0, end);
  }
  int32_t before = run->plan.mode_changes[0].before;
  bool changed = judge_some(run, t_ms, 0, before);
  if (change_modes(run, t_ms)) {
    changed = true;
  }
  if (judge_some(run, t_ms, before, end)) {
    changed = true;
  }
  return changed;
}

/* The first instant after the scan at `t_ms` at which a delay, a pulse or the sun speaks. */
static int64_t next_of_conditions(const RunTables *run, int64_t t_ms) {
  int64_t first = FOREVER;
  for (int32_t n = 0; n < run->plan.conditions_rows; n++) {
    const ConditionSpec *spec = &run->plan.conditions[n];
    ConditionNow *now = &run->now.conditions[n];
    if (spec->kind <= NODE_WITHIN) {
      if (now->dark == KEPT && spec->without != KEEP) {
        first = least(first, run->now.signals[spec->signal].good_ms + spec->keep_ms);
      }
    } else if (spec->kind == NODE_FOR) {
      int64_t says = remainder_of(now->member, ON_STATED);
      if (now->member != UNSEEN && says != now->now) {
        int64_t wait_ms = says == 1 ? spec->on_ms : spec->off_ms;
        first = least(first, now->since_ms + wait_ms);
      }
    } else if (spec->kind == NODE_PULSE) {
      if (now->since_ms != NEVER) {
        first = least(first, now->since_ms + spec->on_ms);
      }
    } else if (spec->kind == NODE_SUN && run->now.head->clock_known == 1) {
      first = least(first, next_sun(run, spec->a, spec->on_ms, t_ms));
    }
  }
  return first;
}

/* --- The last stage: relays that open first and close after, exclusive ones, patterns, lines. */

/* Whether a relay may have opened within a dead time, or in this very scan. */
static bool opened_lately(const RunTables *run, int64_t line, int64_t dead_ms, int64_t t_ms,
    int64_t period_ms) {
  if (run->now.head->free == 0 && t_ms - run->now.head->booted_ms < dead_ms) {
    return true; /* what stood before the boot is not known */
  }
  return t_ms - run->now.lines[line].opened_ms < most(dead_ms, period_ms);
}

/* Whether another load's exclusive relay, or one that waits for its turn, bars a relay. */
static bool barred(const RunTables *run, int64_t line, int64_t first, int64_t end, int64_t t_ms,
    int64_t period_ms) {
  for (int32_t g = 0; g < run->plan.exclusive_rows; g++) {
    const ExclusiveSpec *group = &run->plan.exclusive[g];
    bool mine = false;
    for (int32_t index = group->first; index < group->end; index++) {
      if (run->plan.exclusive_lines[index] == line) {
        mine = true;
      }
    }
    if (!mine) {
      continue;
    }
    if (run->now.turns[g] == 1) {
      return true;
    }
    for (int32_t index = group->first; index < group->end; index++) {
      int32_t other = run->plan.exclusive_lines[index];
      if (first <= other && other < end) {
        continue;
      }
      bool closed = run->now.lines[other].closed == 1;
      if (closed || opened_lately(run, other, group->dead_ms, t_ms, period_ms)) {
        run->now.turns[g] = 1;
        return true;
      }
    }
  }
  return false;
}

/* Bring the relays of a load to a state; what is missing where they are not there yet. */
static int64_t close_contacts(const RunTables *run, int64_t load, int64_t target, int64_t t_ms,
    int64_t period_ms) {
  const LoadSpec *spec = &run->plan.loads[load];
  int32_t first = spec->line;
  int32_t end = spec->line_end;
  int64_t state = spec->patterns > 0 ? least(target, 1) : target;
  int64_t combo = spec->combo + state * ((int64_t)end - first);
  bool closes = false;
  for (int32_t line = first; line < end; line++) {
    if (run->plan.combos[combo + line - first] > run->now.lines[line].closed) {
      closes = true;
      if (run->plan.exclusive_rows > 0) {
        if (barred(run, line, first, end, t_ms, period_ms)) {
          return INHIBIT_EXCLUSIVE;
        }
      }
    }
  }
  for (int32_t line = first; line < end; line++) {
    LineNow *relay = &run->now.lines[line];
    if (run->plan.combos[combo + line - first] < relay->closed) {
      relay->closed = 0;
      relay->opened_ms = t_ms;
      run->now.head->lines = 1;
    }
  }
  if (!closes) {
    return INHIBIT_NONE;
  }
  if (spec->breaks == 1) {
    for (int32_t line = first; line < end; line++) {
      if (opened_lately(run, line, spec->dead_ms, t_ms, period_ms)) {
        return INHIBIT_BREAK;
      }
    }
  }
  for (int32_t line = first; line < end; line++) {
    if (run->plan.combos[combo + line - first] == 1) {
      run->now.lines[line].closed = 1;
      run->now.head->lines = 1;
    }
  }
  return INHIBIT_NONE;
}

/* Twice the time left of the present part of a pattern, plus one where that part is on.

   A pattern of no length is dark and stays as it is. */
static int64_t part_of_pattern(const RunTables *run, int64_t pattern, int64_t since_ms) {
  const PatternSpec *spec = &run->plan.patterns[pattern];
  int64_t whole_ms = 0;
  for (int32_t index = spec->first; index < spec->end; index++) {
    whole_ms += run->plan.parts_ms[index];
  }
  if (whole_ms <= 0) {
    return FOREVER;
  }
  int64_t left_ms = remainder_of(since_ms, whole_ms);
  int64_t on = 1;
  for (int32_t index = spec->first; index < spec->end; index++) {
    if (left_ms < run->plan.parts_ms[index]) {
      return 2 * (run->plan.parts_ms[index] - left_ms) + on;
    }
    left_ms -= run->plan.parts_ms[index];
    on = 1 - on;
  }
  return 2 * whole_ms;
}

/* Whether a load that shows a pattern is in a dark part of it. */
static bool dark_part(const RunTables *run, int64_t load, int64_t t_ms) {
  const LoadSpec *spec = &run->plan.loads[load];
  LoadNow *now = &run->now.loads[load];
  int32_t pattern = now->state - 2;
  if (spec->patterns == 0 || pattern < 0) {
    return false;
  }
  return remainder_of(part_of_pattern(run, (int64_t)spec->pattern + pattern,
      t_ms - now->pattern_ms), 2) == 0;
}

/* The level of every relay's line: contact kind, polarity and pattern. */
static void drive_lines(const RunTables *run, int64_t t_ms) {
  for (int32_t load = 0; load < run->plan.loads_rows; load++) {
    const LoadSpec *spec = &run->plan.loads[load];
    bool dark = dark_part(run, load, t_ms);
    for (int32_t line = spec->line; line < spec->line_end; line++) {
      const LineSpec *wired = &run->plan.lines[line];
      LineNow *relay = &run->now.lines[line];
      bool conducts = relay->closed == 1 && !dark;
      bool coil = conducts != (wired->nc == 1);
      int32_t level = coil != (wired->low == 1) ? 1 : 0;
      if (level != relay->shown) {
        relay->shown = (int8_t)level;
        put_line(run, t_ms, line, level);
      }
    }
  }
}

/* The first instant after `t_ms` at which a dead time is over or a pattern changes. */
static int64_t next_of_contacts(const RunTables *run, int64_t t_ms, int64_t period_ms) {
  int64_t first = FOREVER;
  for (int32_t load = 0; load < run->plan.loads_rows; load++) {
    const LoadSpec *spec = &run->plan.loads[load];
    LoadNow *now = &run->now.loads[load];
    int32_t pattern = now->state - 2;
    if (spec->patterns > 0 && pattern >= 0) {
      int64_t part = part_of_pattern(run, (int64_t)spec->pattern + pattern, t_ms - now->pattern_ms);
      first = least(first, t_ms + whole_part(part, 2));
    }
    if (now->kept == INHIBIT_BREAK && spec->kind == KIND_STEADY) {
      int64_t latest_ms = run->now.head->free == 0 ? run->now.head->booted_ms : NEVER;
      for (int32_t line = spec->line; line < spec->line_end; line++) {
        latest_ms = most(latest_ms, run->now.lines[line].opened_ms);
      }
      first = least(first, most(latest_ms + spec->dead_ms, t_ms + period_ms));
    }
  }
  for (int32_t g = 0; g < run->plan.exclusive_rows; g++) {
    const ExclusiveSpec *group = &run->plan.exclusive[g];
    if (run->now.turns[g] == 0) {
      continue;
    }
    int64_t dead_ms = most(group->dead_ms, period_ms);
    if (run->now.head->free == 0 && run->now.head->booted_ms + dead_ms > t_ms) {
      first = least(first, run->now.head->booted_ms + dead_ms);
    }
    for (int32_t index = group->first; index < group->end; index++) {
      int64_t at_ms = run->now.lines[run->plan.exclusive_lines[index]].opened_ms + dead_ms;
      if (at_ms > t_ms) {
        first = least(first, at_ms);
      }
    }
  }
  return first;
}

/* --- Derived signals: what is made of the values of several probes, good while all of them are. */

/* Vapour pressure, hPa, from temperature and relative humidity over water. */
static double vapour_hpa(double temp_degc, double rh_pct) {
  double saturated = MAGNUS_HPA * exp(MAGNUS_FACTOR * temp_degc / (MAGNUS_DEGC + temp_degc));
  return rh_pct * 0.01 * saturated;
}

/* How fast a value changes, by the minute; NaN while its time is not full. */
static double rate_per_min(const RunTables *run, int64_t d) {
  const DerivedSpec *signal = &run->plan.derived[d];
  RateNow *rate = &run->now.rates[d];
  if (rate->held < 2) {
    return NAN;
  }
  int64_t oldest = (int64_t)signal->ring + rate->first;
  int64_t newest = signal->ring + remainder_of((int64_t)rate->first + rate->held - 1, signal->room);
  int64_t elapsed_ms = run->now.rate_ms[newest] - run->now.rate_ms[oldest];
  if (elapsed_ms < signal->over_ms) {
    return NAN;
  }
  return (run->now.rate_values[newest] - run->now.rate_values[oldest]) / ((double)elapsed_ms / MS_PER_MIN);
}

/* The value of a derived signal whose members are all good; NaN where it has none yet. */
static double combined(const RunTables *run, int64_t d) {
  const DerivedSpec *signal = &run->plan.derived[d];
  int32_t kind = signal->kind;
  double a = run->now.signals[run->plan.signal_members[signal->first]].value;
  if (kind == SIGNAL_RATE) {
    return rate_per_min(run, d);
  }
  if (kind == SIGNAL_LESS_LAMP) {
    bool lit = signal->load != NONE && run->now.loads[signal->load].state != 0;
    return lit ? a - signal->a : a;
  }
  /* of a share of the supply: fixed resistor, ohms at 10 lx, gamma, side */
  if (kind == SIGNAL_LUX) {
    if (!(0.0 < a && a < 1.0)) {
      return NAN;
    }
    double ohms = signal->d > 0.0 ? signal->a * (1.0 - a) / a : signal->a * a / (1.0 - a);
    return 10.0 * pow(ohms / signal->b, -1.0 / signal->c);
  }
  if (kind == SIGNAL_RATIO) {
    return a / signal->a;
  }
  if (kind == SIGNAL_DIFFERENCE || kind == SIGNAL_ECHO || kind == SIGNAL_DEW_POINT
      || kind == SIGNAL_ABSOLUTE_HUMIDITY) {
    double b = run->now.signals[run->plan.signal_members[(int64_t)signal->first + 1]].value;
    if (kind == SIGNAL_DIFFERENCE) {
      return a - b;
    }
    if (kind == SIGNAL_ECHO) { /* a distance that was worked out at a stated temperature */
      return a * sqrt((b + KELVIN_AT_ZERO_DEGC) / (signal->a + KELVIN_AT_ZERO_DEGC));
    }
    if (!(-45.0 <= a && a <= 60.0) || !(0.0 < b && b <= 100.0)) {
      return NAN; /* beyond what the formula holds for */
    }
    if (kind == SIGNAL_DEW_POINT) {
      double y = log(vapour_hpa(a, b) / MAGNUS_HPA);
      double dew = MAGNUS_DEGC * y / (MAGNUS_FACTOR - y);
      return dew >= -45.0 ? dew : NAN;
    }
    return 100000.0 * vapour_hpa(a, b) / (VAPOUR_GAS_CONSTANT * (a + KELVIN_AT_ZERO_DEGC));
  }
  double total = a;
  for (int64_t index = (int64_t)signal->first + 1; index < signal->end; index++) {
    double other = run->now.signals[run->plan.signal_members[index]].value;
    if (kind == SIGNAL_MEAN) {
      total += other;
    } else if (kind == SIGNAL_HIGHEST) {
      total = most_real(total, other);
    } else if (kind == SIGNAL_LOWEST) {
      total = least_real(total, other);
    }
  }
  return kind == SIGNAL_MEAN ? total / (double)((int64_t)signal->end - signal->first) : total;
}

/* Every derived signal, members before what is made of them. */
static void derive(const RunTables *run) {
  int32_t probes = run->plan.probes_rows;
  for (int32_t d = 0; d < run->plan.derived_rows; d++) {
    const DerivedSpec *signal = &run->plan.derived[d];
    SignalNow *now = &run->now.signals[(int64_t)probes + d];
    bool good = true;
    int64_t good_ms = FOREVER;
    for (int32_t index = signal->first; index < signal->end; index++) {
      SignalNow *member = &run->now.signals[run->plan.signal_members[index]];
      if (member->good == 0) {
        good = false;
        good_ms = least(good_ms, member->good_ms);
      }
    }
    if (good) {
      double value = combined(run, d);
      if (isnan(value)) {
        good = false;
        good_ms = run->now.head->booted_ms; /* it has had no reading yet */
      } else {
        now->value = value;
      }
    }
    now->good = good ? 1 : 0;
    now->good_ms = good_ms;
  }
}

/* --- Doorway pairs: two sides crossed in an order count people in and out. */

/* Whether an input has just risen. */
static bool rises(const RunTables *run, int64_t i) {
  return run->now.inputs[i].moved == 1 && is_high(run, i);
}

/* One side, then the other within the time counts once; both at once tell no order. */
static void cross_doorways(const RunTables *run, int64_t at_ms) {
  for (int32_t d = 0; d < run->plan.doorways_rows; d++) {
    const DoorwaySpec *spec = &run->plan.doorways[d];
    DoorwayNow *now = &run->now.doorways[d];
    bool rose_outer = rises(run, spec->outer);
    bool rose_inner = rises(run, spec->inner);
    if (now->side != NONE && at_ms - now->side_ms >= spec->within_ms) {
      now->side = NONE;
    }
    if (rose_outer && rose_inner) {
      now->side = NONE;
    } else if (rose_outer || rose_inner) {
      int32_t side = rose_outer ? OUTER : INNER;
      if (now->side != NONE && now->side != side) {
        now->count = (int32_t)most(0, (int64_t)now->count + (side == INNER ? 1 : -1));
        now->side = NONE;
      } else {
        now->side = (int8_t)side;
        now->side_ms = at_ms;
      }
    }
  }
}

/* A count goes to 0 at a reset instant that the clock reaches or jumps over, once each. */
static void reset_counts(const RunTables *run, int64_t t_ms) {
  for (int32_t d = 0; d < run->plan.doorways_rows; d++) {
    reset_count(run, d, t_ms);
  }
}

/* Set the count to 0 where the known clock has come to a reset instant, each once. */
static void reset_count(const RunTables *run, int64_t d, int64_t t_ms) {
  DoorwayNow *now = &run->now.doorways[d];
  const ResetSpec *resets = &run->calendar.resets[d];
  if (run->now.head->clock_known == 0) {
    now->clock_ms = NEVER;
    return;
  }
  int64_t clock_ms = t_ms + run->now.head->clock_base_ms;
  int64_t passed = first_after(run->calendar.reset_ms, resets->first, resets->end, clock_ms);
  if (passed > now->reset) {
    if (now->clock_ms != NEVER) { /* only what was passed while the clock was known */
      now->count = 0;
    }
    now->reset = (int32_t)passed;
  }
  now->clock_ms = clock_ms;
}

/* The first instant at which a count goes to 0. */
static int64_t next_reset(const RunTables *run) {
  int64_t first = FOREVER;
  for (int32_t d = 0; d < run->plan.doorways_rows; d++) {
    const ResetSpec *resets = &run->calendar.resets[d];
    int64_t at = most(run->now.doorways[d].reset, resets->first);
    if (run->now.head->clock_known == 1 && at < resets->end) {
      first = least(first, run->calendar.reset_ms[at] - run->now.head->clock_base_ms);
    }
  }
  return first;
}

/* After a boot the count is known only where it was retained, and no side has risen. */
static void boot_doorways(const RunTables *run) {
  for (int32_t d = 0; d < run->plan.doorways_rows; d++) {
    DoorwayNow *now = &run->now.doorways[d];
    now->count = 0;
    now->side = NONE;
    now->reset = run->calendar.resets[d].first;
    now->clock_ms = NEVER;
  }
}

/* --- A drive by pulses: it moves, arrives, is found moved, or does not arrive. */

/* One scan of a drive: where it stands, then one pulse where it is to move and may. */
static void hold_drive(const RunTables *run, int64_t load, int64_t t_ms) {
  const LoadSpec *spec = &run->plan.loads[load];
  LoadNow *now = &run->now.loads[load];
  Head *head = run->now.head;
  int32_t decider = now->chosen;
  int32_t want = now->chosen_want;
  int32_t priority = run->plan.rules[decider].priority;
  int32_t author = priority == PRIORITY_OVERRIDE ? now->override_author : NOBODY;
  int64_t here = end_of(now->at_open, now->at_shut);
  if (head->first == 1) { /* what is found at boot is no movement */
    now->state = (int16_t)(here != NONE ? here : UNKNOWN);
  } else {
    int32_t was = now->state;
    bool moving = now->move_ms != NEVER;
    int32_t who = moving ? now->move_who : UNASKED;
    int32_t moved_by = moving ? now->move_author : NOBODY;
    if (now->outside == 1) {
      who = spec->override;
      moved_by = OUTSIDE;
    }
    int64_t followed = follow_movement(run, load, here, author, t_ms);
    if (followed != was) {
      now->state = (int16_t)followed;
      note_change(run, load, was, followed, who, moved_by, now->kept, INHIBIT_NONE, t_ms);
    }
  }
  int32_t state = now->state;
  if (now->blocked != NO_STATE) {
    bool same = now->blocked_who == decider && now->blocked_author == author;
    if (!same || now->blocked != want || state == want) {
      now->blocked = NO_STATE;
      head->stirred = 1;
    }
  }
  bool waits = priority != PRIORITY_TRIP && head->free == 0;
  waits = waits && t_ms < head->booted_ms + spec->boot_ms;
  bool both = now->at_open == 1 && now->at_shut == 1;
  /* who moved it needs no pulse */
  bool wants_move = want != NO_WISH && state != want && author != OUTSIDE;
  bool still = now->move_ms == NEVER;
  bool ready = now->blocked == NO_STATE && now->pulse_ms == NEVER;
  int32_t before = state;
  int32_t kept = INHIBIT_NONE;
  bool dials = waits_for_dial(run, load, priority);
  bool locked = now->not_arriving == 1;
  if (wants_move && still && ready && !(waits || dials || locked || both)) {
    run->now.lines[spec->line].closed = 1;
    head->lines = 1;
    now->pulse_ms = t_ms;
    now->pulsed_ms = t_ms;
    now->late = 0;
    now->move_ms = t_ms;
    now->move_from = (int16_t)state;
    now->move_left = here == NONE ? 1 : 0;
    now->move_pulsed = 1;
    now->move_who = (int16_t)decider;
    now->move_author = (int16_t)author;
    now->move_want = (int16_t)want;
    kept = now->kept;
    if (kept == INHIBIT_BOOT_DELAY && priority == PRIORITY_TRIP) {
      kept = INHIBIT_NONE;
    }
    if (kept == INHIBIT_SELECTOR && priority <= PRIORITY_FAULT) {
      kept = INHIBIT_NONE;
    }
    now->kept = INHIBIT_NONE;
    now->state = MOVING;
    state = MOVING;
  } else if (wants_move) {
    now->kept = INHIBIT_NONE;
    if (!still && now->move_want != want) {
      now->kept = INHIBIT_MOVING;
    } else if (still && waits) {
      now->kept = INHIBIT_BOOT_DELAY;
    } else if (still && dials) {
      now->kept = INHIBIT_SELECTOR;
    } else if (still && locked) {
      now->kept = INHIBIT_NOT_ARRIVING;
    }
  } else {
    now->kept = INHIBIT_NONE;
  }
  note_change(run, load, before, state, decider, author, now->kept, kept, t_ms);
  if (now->pulse_ms != NEVER && t_ms - now->pulse_ms >= spec->pulse_ms) {
    run->now.lines[spec->line].closed = 0;
    head->lines = 1;
    now->pulse_ms = NEVER;
    head->stirred = 1;
  }
}

/* The first instant at which a pulse or a travel is over. */
static int64_t next_of_drives(const RunTables *run) {
  int64_t first = FOREVER;
  for (int32_t load = 0; load < run->plan.loads_rows; load++) {
    const LoadSpec *spec = &run->plan.loads[load];
    LoadNow *now = &run->now.loads[load];
    if (spec->kind != KIND_DRIVE) {
      continue;
    }
    if (now->move_ms != NEVER) {
      first = least(first, now->move_ms + spec->travel_ms);
    }
    if (now->pulse_ms != NEVER) {
      first = least(first, now->pulse_ms + spec->pulse_ms);
    }
    if (now->kept == INHIBIT_BOOT_DELAY) {
      first = least(first, run->now.head->booted_ms + spec->boot_ms);
    }
  }
  return first;
}

/* --- Rows that a scan writes: where there is room; counted where there is none. */

/* Write one event where there is room; the count goes on, so that the caller can make room. */
static void put_row(const RunTables *run, int64_t t_ms, int64_t kind, int64_t who, int64_t was,
    int64_t now, int64_t rule, int64_t author, int64_t decider, int64_t decided_by, int64_t want,
        int64_t inhibit, int64_t kept, int64_t cited, double value) {
  int64_t n = run->out.counts->events;
  if (n < run->out.events_rows) {
    EventRow *event = &run->out.events[n];
    event->t_ms = t_ms;
    event->type = kind;
    event->who = who;
    event->state_from = was;
    event->state_to = now;
    event->rule = rule;
    event->author = author;
    event->decider = decider;
    event->decided_by = decided_by;
    event->want = want;
    event->inhibit = inhibit;
    event->kept = kept;
    event->cited = cited;
    event->value = value;
  }
  run->out.counts->events = n + 1;
}

/* Write an event that nobody decides. */
static void put_event(const RunTables *run, int64_t t_ms, int64_t kind, int64_t who, int64_t was,
    int64_t now, int64_t rule, int64_t author, double value) {
  put_row(run, t_ms, kind, who, was, now, rule, author, NOBODY, NOBODY, 0, 0, 0, NOBODY, value);
}

/* Write the new level of a relay's line. */
static void put_line(const RunTables *run, int64_t t_ms, int64_t line, int64_t level) {
  int64_t n = run->out.counts->lines;
  if (n < run->out.lines_rows) {
    LineRow *out = &run->out.lines[n];
    out->t_ms = t_ms;
    out->line = line;
    out->level = level;
  }
  run->out.counts->lines = n + 1;
}

/* --- Filters over the last readings: mean and median; that over time stands with its sample. */

/* The middle one of the readings held, or the mean of the middle two. */
static double middle(const RunTables *run, int64_t first, int64_t held) {
  for (int64_t i = 0; i < held; i++) {
    double value = run->now.ring[first + i];
    int64_t j = i;
    while (j > 0 && run->now.scratch[j - 1] > value) {
      run->now.scratch[j] = run->now.scratch[j - 1];
      j--;
    }
    run->now.scratch[j] = value;
  }
  int64_t half = whole_part(held, 2);
  if (remainder_of(held, 2) == 1) {
    return run->now.scratch[half];
  }
  return (run->now.scratch[half - 1] + run->now.scratch[half]) / 2.0;
}

/* The mean or the median of the last readings, with one more among them. */
static double of_the_last(const RunTables *run, int64_t p, double raw) {
  const ProbeSpec *spec = &run->plan.probes[p];
  ProbeNow *now = &run->now.probes[p];
  int32_t first = spec->ring;
  int32_t takes = spec->takes;
  run->now.ring[(int64_t)first + now->next] = raw;
  now->next = (int16_t)remainder_of(now->next + 1, takes);
  int64_t held = least(now->held + 1, takes);
  now->held = (int16_t)held;
  if (spec->filter == FILTER_MEDIAN) {
    return middle(run, first, held);
  }
  int32_t oldest = held == takes ? now->next : 0;
  double total = 0.0;
  for (int64_t i = 0; i < held; i++) {
    total += run->now.ring[first + remainder_of(oldest + i, takes)];
  }
  return total / (double)held;
}

/* --- What may hold a wanted change, in the order of ENGINE.md; and what a load takes on. */

/* How often the load went on within the hour before, as far as that counts. */
static int64_t starts_in_hour(const RunTables *run, int64_t load, int64_t t_ms) {
  const LoadSpec *spec = &run->plan.loads[load];
  LoadNow *now = &run->now.loads[load];
  int64_t count = 0;
  for (int32_t i = 0; i < now->starts_held; i++) {
    if (t_ms - run->now.starts_ms[(int64_t)spec->ring + i] < HOUR_MS) {
      count++;
    }
  }
  return count;
}

/* Whether the selector whose position rules a load was not read yet since the boot. */
static bool waits_for_dial(const RunTables *run, int64_t load, int64_t priority) {
  int32_t dial = run->plan.loads[load].dial;
  if (dial == NONE || priority <= PRIORITY_FAULT || run->now.head->free == 1) {
    return false;
  }
  return run->now.selectors[dial].spoken == UNREAD;
}

/* The first rule that keeps a load from what is wanted; 0 where none does. */
static int64_t held_back(const RunTables *run, int64_t load, int64_t want, int64_t priority,
    int64_t t_ms) {
  const LoadSpec *spec = &run->plan.loads[load];
  LoadNow *now = &run->now.loads[load];
  if (now->state == OFF && want != OFF) {
    if (t_ms - now->off_ms < spec->min_off_ms) {
      return INHIBIT_MIN_OFF;
    }
    if (priority != PRIORITY_TRIP && now->locked == 1) {
      return INHIBIT_MAX_ON;
    }
    if (spec->starts != NONE) {
      if (starts_in_hour(run, load, t_ms) >= spec->starts) {
        return INHIBIT_STARTS;
      }
    }
    if (priority != PRIORITY_TRIP && run->now.head->free == 0) {
      if (t_ms < run->now.head->booted_ms + spec->boot_ms) {
        return INHIBIT_BOOT_DELAY;
      }
    }
    if (waits_for_dial(run, load, priority)) {
      return INHIBIT_SELECTOR;
    }
  } else if (now->state != OFF && want == OFF && priority > PRIORITY_FAULT) {
    if (t_ms - now->on_ms < spec->min_on_ms) {
      return INHIBIT_MIN_ON;
    }
  }
  return INHIBIT_NONE;
}

/* Take on a new state, and begin what is counted from it. */
static void enter(const RunTables *run, int64_t load, int64_t state, int64_t t_ms) {
  const LoadSpec *spec = &run->plan.loads[load];
  LoadNow *now = &run->now.loads[load];
  if (now->state == OFF && state != OFF) {
    now->on_ms = t_ms;
    int32_t room = spec->starts;
    if (room > 0) {
      run->now.starts_ms[(int64_t)spec->ring + now->starts_next] = t_ms;
      now->starts_next = (int16_t)remainder_of(now->starts_next + 1, room);
      now->starts_held = (int16_t)least(now->starts_held + 1, room);
    }
  } else if (now->state != OFF && state == OFF) {
    now->off_ms = t_ms;
  }
  now->state = (int16_t)state;
  now->pattern_ms = t_ms;
}

/* What kept this same change back in the scan before, unless what decides breaks it. */
static int64_t kept_back(const RunTables *run, int64_t load, int64_t state, int64_t priority) {
  LoadNow *now = &run->now.loads[load];
  int32_t kept = now->kept_for == state ? now->kept : INHIBIT_NONE;
  if (kept == INHIBIT_MIN_ON && priority < PRIORITY_OVERRIDE) {
    return INHIBIT_NONE;
  }
  if (kept == INHIBIT_SELECTOR && priority <= PRIORITY_FAULT) {
    return INHIBIT_NONE;
  }
  if (priority == PRIORITY_TRIP && (kept == INHIBIT_MAX_ON || kept == INHIBIT_BOOT_DELAY)) {
    return INHIBIT_NONE;
  }
  return kept;
}

/* One scan of a load whose contacts hold a combination for each state. */
static void hold_steady(const RunTables *run, int64_t load, int64_t t_ms, int64_t period_ms) {
  LoadNow *now = &run->now.loads[load];
  int32_t decider = now->chosen;
  int32_t want = now->chosen_want;
  int32_t priority = run->plan.rules[decider].priority;
  int32_t author = priority == PRIORITY_OVERRIDE ? now->override_author : NOBODY;
  if (now->locked == 1) {
    let_go_of_lock(run, load, t_ms);
  }
  int32_t was = now->state;
  int64_t inhibit = held_back(run, load, want, priority, t_ms);
  int32_t target = inhibit != INHIBIT_NONE ? was : want;
  int32_t cause = INHIBIT_NONE;
  if (run_out(run, load, want, priority, target, t_ms)) {
    target = OFF;
    cause = INHIBIT_MAX_ON;
    lock_out(run, load, t_ms);
    run->now.head->stirred = 1; /* while it cannot open, each scan begins it anew */
  }
  int64_t missing = close_contacts(run, load, target, t_ms, period_ms);
  int32_t state = target;
  if (missing != INHIBIT_NONE) {
    state = was;
    if (inhibit == INHIBIT_NONE) {
      inhibit = missing;
    }
  }
  int64_t kept = INHIBIT_NONE;
  if (state != was) {
    kept = cause != INHIBIT_NONE ? cause : kept_back(run, load, state, priority);
    enter(run, load, state, t_ms);
  }
  now->kept = (int8_t)inhibit;
  now->kept_for = (int16_t)(inhibit != INHIBIT_NONE ? want : NO_STATE);
  note_change(run, load, was, state, decider, author, inhibit, kept, t_ms);
}

/* The first instant after `t_ms` at which something that holds a load is over. */
static int64_t next_of_holds(const RunTables *run, int64_t t_ms) {
  int64_t first = FOREVER;
  for (int32_t load = 0; load < run->plan.loads_rows; load++) {
    const LoadSpec *spec = &run->plan.loads[load];
    LoadNow *now = &run->now.loads[load];
    int32_t inhibit = now->kept;
    if (inhibit == INHIBIT_MIN_ON) {
      first = least(first, now->on_ms + spec->min_on_ms);
    } else if (inhibit == INHIBIT_MIN_OFF) {
      first = least(first, now->off_ms + spec->min_off_ms);
    } else if (inhibit == INHIBIT_BOOT_DELAY) {
      first = least(first, run->now.head->booted_ms + spec->boot_ms);
    } else if (inhibit == INHIBIT_STARTS) {
      for (int32_t i = 0; i < now->starts_held; i++) {
        int64_t over_ms = run->now.starts_ms[(int64_t)spec->ring + i] + HOUR_MS;
        if (over_ms > t_ms) {
          first = least(first, over_ms);
        }
      }
    }
    if (now->locked == 1) {
      int64_t rested_ms = now->lock_ms + spec->rest_ms;
      if (rested_ms > t_ms) {
        first = least(first, rested_ms);
      }
    }
    if (spec->max_on_ms != NONE && now->state != OFF) {
      int64_t longest_ms = now->on_ms + spec->max_on_ms;
      if (longest_ms > t_ms) {
        first = least(first, longest_ms);
      }
    }
  }
  return first;
}

/* --- What comes in during a run: the clock and samples; what is lost in a cut; what comes next. */

/* The clock, then samples, each in order of time. */
static void take_inputs(const RunTables *run, int64_t t_ms) {
  Cursor *at = run->now.cursor;
  Head *head = run->now.head;
  while (at->clock < run->inputs.clock_rows && run->inputs.clock[at->clock].t_ms <= t_ms) {
    const ClockRow *clock = &run->inputs.clock[at->clock];
    bool unbroken = head->clock_known == 1 && head->clock_low_ms < clock->says_ms;
    head->clock_low_ms = unbroken ? head->clock_low_ms : clock->says_ms;
    head->clock_known = (int8_t)clock->known;
    head->clock_base_ms = clock->says_ms - clock->t_ms;
    at->clock++;
  }
  while (at->sample < run->inputs.sample_ms_rows && run->inputs.sample_ms[at->sample] <= t_ms) {
    trace_sample(run, at->sample);
    at->sample++;
  }
}

/* Take one sample, and trace what it came to where somebody asked. */
static void trace_sample(const RunTables *run, int64_t row) {
  int64_t p = run->inputs.sample_probe[row];
  double latest = take_sample(run, p, run->inputs.sample_ms[row], run->inputs.sample_value[row]);
  if (row < run->out.trace_rows) {
    run->out.trace[row] = latest;
    run->out.qualities[row] = run->now.probes[p].quality;
  }
}

/* What came while there was no power is lost; levels are what they are found as. */
static void lose_inputs(const RunTables *run, int64_t before_ms) {
  Cursor *at = run->now.cursor;
  while (at->sample < run->inputs.sample_ms_rows && run->inputs.sample_ms[at->sample] < before_ms) {
    at->sample++;
  }
  while (at->message < run->inputs.messages_rows
      && run->inputs.messages[at->message].t_ms < before_ms) {
    at->message++;
  }
  while (at->clock < run->inputs.clock_rows && run->inputs.clock[at->clock].t_ms < before_ms) {
    at->clock++;
  }
  run->now.head->stirred = 1;
}

/* The first instant at which a level, a message, the clock or the power changes. */
static int64_t next_input(const RunTables *run, int64_t end_ms) {
  Cursor *at = run->now.cursor;
  int64_t first = end_ms;
  if (at->level < run->inputs.levels_rows) {
    first = least(first, run->inputs.levels[at->level].t_ms);
  }
  if (at->message < run->inputs.messages_rows) {
    first = least(first, run->inputs.messages[at->message].t_ms);
  }
  if (at->clock < run->inputs.clock_rows) {
    first = least(first, run->inputs.clock[at->clock].t_ms);
  }
  if (at->cut < run->inputs.cuts_rows) {
    first = least(first, run->inputs.cuts[at->cut].from_ms);
  }
  return first;
}

/* --- The input layer: digital inputs change at instants of their own, also between two scans. */

/* The levels found at a boot count at once and are no edges; what came before it is lost. */
static void find_levels(const RunTables *run, int64_t t_ms) {
  Cursor *at = run->now.cursor;
  while (at->level < run->inputs.levels_rows && run->inputs.levels[at->level].t_ms <= t_ms) {
    const Level *last_level = &run->inputs.levels[at->level];
    run->now.inputs[last_level->input].raw = last_level->level;
    at->level++;
  }
  for (int32_t i = 0; i < run->plan.inputs_rows; i++) {
    InputNow *now = &run->now.inputs[i];
    now->raw_ms = t_ms;
    now->level = now->raw;
    now->before = now->raw;
    now->flipped = 0;
    now->moved = 0;
  }
}

/* The level of an input that counts at an instant, before its edges are taken. */
static int64_t level_at(const RunTables *run, int64_t i, int64_t t_ms) {
  int64_t debounce_ms = run->plan.inputs[i].debounce_ms;
  InputNow *now = &run->now.inputs[i];
  int32_t raw = now->raw;
  int64_t raw_ms = now->raw_ms;
  int32_t level = now->level;
  int64_t row = run->now.cursor->level;
  while (row < run->inputs.levels_rows && run->inputs.levels[row].t_ms <= t_ms) {
    const Level *change = &run->inputs.levels[row];
    if (change->input == i && change->level != raw) {
      if (raw_ms + debounce_ms < change->t_ms) {
        level = raw;
      }
      raw = change->level;
      raw_ms = change->t_ms;
    }
    row++;
  }
  return raw_ms + debounce_ms <= t_ms ? raw : level;
}

/* What a scan takes begins where the one before it ended. */
static void begin_span(const RunTables *run) {
  for (int32_t i = 0; i < run->plan.inputs_rows; i++) {
    InputNow *now = &run->now.inputs[i];
    now->before = now->level;
    now->flipped = 0;
  }
}

/* The first instant at which an input changes, or a level that stands begins to count. */
static int64_t next_edge(const RunTables *run) {
  Cursor *at = run->now.cursor;
  int64_t first = FOREVER;
  if (at->level < run->inputs.levels_rows) {
    first = run->inputs.levels[at->level].t_ms;
  }
  for (int32_t i = 0; i < run->plan.inputs_rows; i++) {
    InputNow *now = &run->now.inputs[i];
    if (now->raw != now->level) {
      first = least(first, now->raw_ms + run->plan.inputs[i].debounce_ms);
    }
  }
  return first;
}

/* The changes of an instant, then the edges that it has; one left at it does not count. */
static void take_edges(const RunTables *run, int64_t at_ms) {
  Cursor *at = run->now.cursor;
  while (at->level < run->inputs.levels_rows && run->inputs.levels[at->level].t_ms <= at_ms) {
    const Level *change = &run->inputs.levels[at->level];
    InputNow *now = &run->now.inputs[change->input];
    if (change->level != now->raw) {
      now->raw = change->level;
      now->raw_ms = at_ms;
    }
    at->level++;
  }
  for (int32_t i = 0; i < run->plan.inputs_rows; i++) {
    InputNow *now = &run->now.inputs[i];
    now->moved = 0;
    if (now->raw != now->level && now->raw_ms + run->plan.inputs[i].debounce_ms <= at_ms) {
      if ((now->raw == 0) != (now->level == 0)) {
        now->flipped = 1;
      }
      now->level = now->raw;
      now->moved = 1;
    }
  }
}

/* The level that counts at the scan. */
static bool is_high(const RunTables *run, int64_t i) {
  return run->now.inputs[i].level != 0;
}

/* The same for a condition: what was otherwise between two scans is so in one of them. */
static bool shown_high(const RunTables *run, int64_t i) {
  InputNow *now = &run->now.inputs[i];
  bool high = now->level != 0;
  bool there_and_back = now->flipped == 1 && high == (now->before != 0);
  return there_and_back ? !high : high;
}

/* A level that was otherwise in between is shown in this scan: the next one sees it back. */
static void end_span(const RunTables *run) {
  for (int32_t i = 0; i < run->plan.inputs_rows; i++) {
    InputNow *now = &run->now.inputs[i];
    now->moved = 0;
    if (now->flipped == 1 && (now->level != 0) == (now->before != 0)) {
      run->now.head->stirred = 1;
    }
  }
}

/* --- The maximum on time, and the lock-out until each rule's condition has been false. */

/* End a lock-out when each noted rule's condition is false and the lock-out time has passed. */
static void let_go_of_lock(const RunTables *run, int64_t load, int64_t t_ms) {
  const LoadSpec *spec = &run->plan.loads[load];
  LoadNow *now = &run->now.loads[load];
  bool waits = false;
  for (int32_t k = spec->first; k < spec->last + 1; k++) {
    RuleNow *rule = &run->now.rules[k];
    if (rule->noted == 1) {
      bool other = k == spec->override && now->lock_author != now->override_author;
      if (rule->asking == 0 || other) {
        rule->noted = 0;
      } else {
        waits = true;
      }
    }
  }
  if (!waits && t_ms - now->lock_ms >= spec->rest_ms) {
    now->locked = 0;
    now->relock = 0;
  }
}

/* Begin a lock-out: every rule that wants the load on now is noted. */
static void lock_out(const RunTables *run, int64_t load, int64_t t_ms) {
  const LoadSpec *spec = &run->plan.loads[load];
  LoadNow *now = &run->now.loads[load];
  for (int32_t k = spec->first; k < spec->last + 1; k++) {
    RuleNow *rule = &run->now.rules[k];
    rule->noted = rule->asking;
  }
  now->lock_author = now->override_author;
  now->locked = 1;
  now->lock_ms = t_ms;
  now->relock = 0;
}

/* Whether its maximum on time ends the load in this scan: against all but a trip to on. */
static bool run_out(const RunTables *run, int64_t load, int64_t want, int64_t priority,
    int64_t target, int64_t t_ms) {
  const LoadSpec *spec = &run->plan.loads[load];
  LoadNow *now = &run->now.loads[load];
  if (spec->max_on_ms == NONE || now->state == OFF || target == OFF) {
    return false;
  }
  if (priority == PRIORITY_TRIP && want != OFF) {
    return false;
  }
  return t_ms - now->on_ms >= spec->max_on_ms;
}

/* --- The loop of a run: power, what comes in, scans. */

/* The first tick of a run at or after an instant. */
static int64_t tick_at(int64_t start_ms, int64_t period_ms, int64_t at_ms) {
  return start_ms + whole_part(at_ms - start_ms + period_ms - 1, period_ms) * period_ms;
}

/* Run from `start_ms` up to but not including `end_ms`; one that `goes_on` boots nothing.

   Each input is seen by the first tick at or after it; one that falls into a cut is never seen.
   Events of the supply and of boots have their own instants, all others those of their tick. */
static void scan_loop(const RunTables *run, int64_t start_ms, int64_t end_ms, int64_t period_ms,
    bool running, bool goes_on, bool skipping) {
  Cursor *cursor = run->now.cursor;
  int32_t cuts = run->inputs.cuts_rows;
  bool dark = false;
  /* A run that begins without power boots when it comes. */
  bool unpowered = cuts > 0 && run->inputs.cuts[0].from_ms <= start_ms;
  if (!goes_on) {
    boot(run, start_ms, running || unpowered);
  }
  int64_t t_ms = start_ms;
  int64_t timer_ms = start_ms;
  cursor->feeds = 0;
  while (t_ms < end_ms) {
    /* --- power: every cut that has begun by now, also those that passed between two scans */
    int64_t back = NONE;
    while (cursor->cut < cuts && t_ms >= run->inputs.cuts[cursor->cut].from_ms) {
      const CutRow *cut = &run->inputs.cuts[cursor->cut];
      if (!dark) {
        dark = true;
        power_off(run, cursor->cut, start_ms);
      }
      if (t_ms < cut->to_ms + cut->boot_ms) {
        break;
      }
      dark = false;
      back = cursor->cut;
      cursor->cut++;
      put_power(run, cut->to_ms, 0, 1);
      if (cut->kept == 0) {
        run->now.head->clock_known = 0;
      }
    }
    if (dark) {
      /* Nothing happens in the dark: on to the first tick after it. */
      const CutRow *over = &run->inputs.cuts[cursor->cut];
      t_ms = tick_at(start_ms, period_ms, over->to_ms + over->boot_ms);
      continue;
    }
    if (back != NONE) {
      const CutRow *last = &run->inputs.cuts[back];
      lose_inputs(run, last->to_ms);
      boot(run, last->to_ms + last->boot_ms, false);
    }
    /* --- what comes in, and the scan */
    take_inputs(run, t_ms);
    bool lightly = cursor->feeds == 1 && back == NONE && only_feeds(run);
    trust(run, t_ms);
    /* Nothing is due, and where no condition says anything new, nobody decides anew. */
    if (!(lightly && !judge_conditions(run, t_ms))) {
      decide(run, t_ms, period_ms);
      if (!skipping) {
        t_ms += period_ms;
        continue;
      }
      /* --- on to the next tick at which something can change */
      quiet_bounds(run);
      timer_ms = least(next_instant(run, t_ms, period_ms), next_input(run, end_ms));
    }
    int64_t at_ms = skip_samples(run, timer_ms, t_ms, period_ms);
    t_ms = most(t_ms + period_ms, tick_at(start_ms, period_ms, at_ms));
  }
}

/* --- What is retained: the fields as they are, when they are written, what a boot finds. */

/* What stands in the chosen slot, or the defaults, as what was last written. */
static void as_found(const RunTables *run) {
  int32_t slot = run->now.memory->slot;
  int64_t in_slot = (int64_t)slot * run->now.cells_rows;
  for (int32_t f = 0; f < run->plan.fields_rows; f++) {
    const FieldSpec *field = &run->plan.fields[f];
    for (int32_t cell = field->cell; cell < field->end; cell++) {
      run->now.base[cell] = slot != NONE ? run->now.slot_cells[in_slot + cell] : 0;
    }
    if (field->kind == FIELD_LOAD && (slot == NONE || run->now.base[field->cell] == ABSENT)) {
      run->now.base[field->cell] = run->plan.loads[field->who].unpowered;
    } else if (field->kind == FIELD_MODE && slot == NONE) {
      run->now.base[field->cell] = run->plan.modes[field->who].start;
    }
  }
}

/* The newest valid slot; NONE where none is valid. */
static void choose_slot(const RunTables *run) {
  MemoryNow *memory = run->now.memory;
  memory->slot = NONE;
  memory->sequence = 0;
  for (int32_t s = 0; s < 2; s++) {
    SlotNow *slot = &run->now.slots[s];
    if (slot->valid == 1) {
      if (memory->slot == NONE || slot->sequence > memory->sequence) {
        memory->slot = (int8_t)s;
        memory->sequence = slot->sequence;
      }
    }
  }
  memory->written_ms = NONE;
  memory->changed_ms = NONE;
  memory->first_ms = NONE;
  memory->known = 0;
  memory->last_slot = NONE;
}

/* Of the last write only its first bytes were written when the power went. */
static void tear(const RunTables *run, int64_t after_bytes) {
  MemoryNow *memory = run->now.memory;
  if (memory->last_slot == NONE || after_bytes >= run->plan.policy->bytes) {
    return;
  }
  SlotNow *slot = &run->now.slots[memory->last_slot];
  if (after_bytes > 0) {
    slot->valid = 0;
    return;
  }
  slot->valid = memory->before_valid;
  slot->sequence = memory->before_sequence;
  int64_t in_slot = (int64_t)memory->last_slot * run->now.cells_rows;
  for (int32_t cell = 0; cell < run->now.before_rows; cell++) {
    run->now.slot_cells[in_slot + cell] = run->now.before[cell];
  }
}

/* Write all fields into the slot that does not hold the newest valid record. */
static void write_record(const RunTables *run, int64_t t_ms) {
  MemoryNow *memory = run->now.memory;
  int32_t s = memory->slot == 0 ? 1 : 0;
  SlotNow *slot = &run->now.slots[s];
  memory->last_slot = (int8_t)s;
  memory->before_valid = slot->valid;
  memory->before_sequence = slot->sequence;
  memory->sequence = (int32_t)((int64_t)memory->sequence + 1);
  slot->valid = 1;
  slot->sequence = memory->sequence;
  int32_t cells = run->now.cells_rows;
  int64_t in_slot = (int64_t)s * run->now.cells_rows;
  int64_t n = run->out.counts->writes;
  bool room = n < run->out.writes_rows;
  for (int32_t cell = 0; cell < cells; cell++) {
    int64_t value = run->now.cells[cell];
    run->now.before[cell] = run->now.slot_cells[in_slot + cell];
    run->now.slot_cells[in_slot + cell] = value;
    run->now.base[cell] = value;
    if (room) {
      run->out.cells[n * cells + cell] = value;
    }
  }
  if (room) {
    WriteRow *record = &run->out.writes[n];
    record->t_ms = t_ms;
    record->slot = s;
    record->sequence = memory->sequence;
  }
  run->out.counts->writes = n + 1;
  memory->slot = (int8_t)s;
  memory->written_ms = t_ms;
  memory->changed_ms = NONE;
  memory->first_ms = NONE;
}

/* Whether two rows of cells differ. */
static bool differ(const int64_t *some, const int64_t *other, int64_t count) {
  for (int64_t cell = 0; cell < count; cell++) {
    if (some[cell] != other[cell]) {
      return true;
    }
  }
  return false;
}

/* Whether a trip latched or was reset in this scan, or a drive was locked out or freed. */
static bool urgent(const RunTables *run) {
  for (int32_t f = 0; f < run->plan.fields_rows; f++) {
    const FieldSpec *field = &run->plan.fields[f];
    bool changed = run->now.cells[field->cell] != run->now.snapshot[field->cell];
    if (changed && (field->kind == FIELD_TRIP || field->kind == FIELD_NOT_ARRIVING)) {
      return true;
    }
  }
  return false;
}

/* Let what a run finds at its beginning stand in memory, as a board in service has it. */
static void seed(const RunTables *run, const int64_t *cells) {
  run->now.memory->slot = 0;
  run->now.memory->sequence = 1;
  run->now.slots[0].valid = 1;
  run->now.slots[0].sequence = 1;
  for (int32_t cell = 0; cell < run->now.cells_rows; cell++) {
    run->now.slot_cells[cell] = cells[cell];
  }
}

/* Whether no record was ever written, not even one that is torn. */
static bool never_written(const RunTables *run) {
  return run->now.slots[0].sequence == 0 && run->now.slots[1].sequence == 0;
}

/* Note what changed, and write it when the plan's policy says so. */
static void remember(const RunTables *run, int64_t t_ms) {
  MemoryNow *memory = run->now.memory;
  const PolicySpec *policy = run->plan.policy;
  bool free = run->now.head->free == 1;
  int32_t cells = run->now.cells_rows;
  if (cells == 0 || policy->on == 0) {
    return;
  }
  bool changed = gather(run);
  if (memory->known == 1 && !changed && memory->first_ms == NONE) {
    return; /* as it was a scan ago, and written then */
  }
  if (memory->known == 0) { /* what was found is the base; a boot alone writes nothing */
    memory->known = 1;
    for (int32_t cell = 0; cell < cells; cell++) {
      if (free) {
        run->now.base[cell] = run->now.cells[cell];
      }
      run->now.snapshot[cell] = run->now.base[cell];
    }
    if (free && run->now.head->seeds == 1) {
      seed(run, run->now.cells);
    }
  }
  bool at_once = urgent(run);
  if (differ(run->now.cells, run->now.snapshot, cells)) {
    memory->changed_ms = t_ms;
    for (int32_t cell = 0; cell < cells; cell++) {
      run->now.snapshot[cell] = run->now.cells[cell];
    }
  }
  if (!differ(run->now.cells, run->now.base, cells)) {
    memory->changed_ms = NONE;
    memory->first_ms = NONE;
    return;
  }
  if (memory->first_ms == NONE) {
    memory->first_ms = t_ms;
  }
  bool due = memory->changed_ms != NONE && t_ms - memory->changed_ms >= policy->quiet_ms;
  if (policy->latest_ms != NONE && t_ms - memory->first_ms >= policy->latest_ms) {
    due = true;
  }
  bool apart = memory->written_ms == NONE || t_ms - memory->written_ms >= policy->least_ms;
  if (at_once || (due && apart)) {
    write_record(run, t_ms);
  }
}

/* The first instant after `t_ms` at which what is not yet written may be. */
static int64_t next_write(const RunTables *run, int64_t t_ms) {
  MemoryNow *memory = run->now.memory;
  const PolicySpec *policy = run->plan.policy;
  int64_t first = FOREVER;
  if (memory->first_ms == NONE) {
    return first;
  }
  if (memory->changed_ms != NONE) {
    int64_t quiet_ms = memory->changed_ms + policy->quiet_ms;
    first = least(first, quiet_ms > t_ms ? quiet_ms : FOREVER);
  }
  if (policy->latest_ms != NONE) {
    int64_t latest_ms = memory->first_ms + policy->latest_ms;
    first = least(first, latest_ms > t_ms ? latest_ms : FOREVER);
  }
  if (memory->written_ms != NONE) {
    int64_t least_ms = memory->written_ms + policy->least_ms;
    first = least(first, least_ms > t_ms ? least_ms : FOREVER);
  }
  return first;
}

/* --- Modes that a schedule or a condition sets: at its beginning and its end, as a press would. */

/* After a boot what a condition is found as is neither a beginning nor an end. */
static void boot_mode_changes(const RunTables *run) {
  for (int32_t c = 0; c < run->plan.mode_changes_rows; c++) {
    run->now.mode_changes[c].seen = UNSEEN;
  }
}

/* Each change of a mode whose condition begins or ends in this scan; whether one was set.

   Of several in one scan the last in the plan's order decides. */
static bool change_modes(const RunTables *run, int64_t t_ms) {
  bool changed = false;
  for (int32_t c = 0; c < run->plan.mode_changes_rows; c++) {
    const ModeChangeSpec *spec = &run->plan.mode_changes[c];
    ModeChangeNow *now = &run->now.mode_changes[c];
    int32_t result = run->now.conditions[spec->node].now;
    if (result == now->seen) {
      continue;
    }
    bool begins = result == 1 && (now->seen != UNSEEN || spec->on_boot == 1);
    bool ends = result == 0 && now->seen == 1;
    now->seen = (int8_t)result;
    int32_t wanted = begins ? spec->begin : spec->end;
    if ((begins || ends) && wanted != NONE && run->now.modes[spec->mode] != wanted) {
      set_mode(run, t_ms, spec->mode, wanted, spec->author);
      changed = true;
    }
  }
  return changed;
}

/* --- Where a drive stands, by its end contacts, a distance or its travel time; who moved it. */

/* The end that answers: open, shut, or NONE where neither or both do. */
static int64_t end_of(int64_t at_open, int64_t at_shut) {
  if (at_open == at_shut) {
    return NONE;
  }
  return at_open == 1 ? OPEN : SHUT;
}

/* Which ends of a drive answer.

   Where nothing tells, it is taken to begin shut and to arrive when its travel is over. */
static void read_ends(const RunTables *run, int64_t load, int64_t t_ms) {
  const LoadSpec *spec = &run->plan.loads[load];
  LoadNow *now = &run->now.loads[load];
  if (spec->position == NONE && spec->open_input == NONE) {
    bool moving = now->move_ms != NEVER;
    bool there = moving && t_ms - now->move_ms >= spec->travel_ms;
    if (run->now.head->first == 1) {
      now->at_shut = 1;
    } else if (moving) {
      now->at_open = there && now->move_want == OPEN ? 1 : 0;
      now->at_shut = there && now->move_want == SHUT ? 1 : 0;
    }
  } else if (spec->position == NONE) {
    now->at_open = level_at(run, spec->open_input, t_ms) != 0 ? 1 : 0;
    now->at_shut = level_at(run, spec->shut_input, t_ms) != 0 ? 1 : 0;
  } else if (run->now.signals[spec->position].good == 1) {
    double value = run->now.signals[spec->position].value;
    if (spec->open_at > spec->shut_at) {
      now->at_open = value >= spec->open_at ? 1 : 0;
      now->at_shut = value <= spec->shut_at ? 1 : 0;
    } else {
      now->at_open = value <= spec->open_at ? 1 : 0;
      now->at_shut = value >= spec->shut_at ? 1 : 0;
    }
  }
}

/* Whether an end is left or reached by a pulse of ours, or is found after a boot. */
static bool explained(const RunTables *run, int64_t load, int64_t here, int64_t t_ms) {
  const LoadSpec *spec = &run->plan.loads[load];
  LoadNow *now = &run->now.loads[load];
  if (now->move_ms != NEVER && now->move_pulsed == 1) {
    return true;
  }
  if (now->pulsed_ms != NEVER && t_ms - now->pulsed_ms < spec->travel_ms) {
    return true;
  }
  if (here == NONE) {
    return false;
  }
  if (now->late == 1 && here == now->late_want) {
    return true;
  }
  return now->unplaced == 1 && t_ms - run->now.head->booted_ms < spec->travel_ms;
}

/* Which ends answer; an end left or reached that no pulse of ours explains is a command.

   A drive that others move is overridden by them: an override of the author outside, for the end
   to which it goes. */
static void sense_drives(const RunTables *run, int64_t t_ms) {
  for (int32_t load = 0; load < run->plan.loads_rows; load++) {
    const LoadSpec *spec = &run->plan.loads[load];
    LoadNow *now = &run->now.loads[load];
    if (spec->kind != KIND_DRIVE) {
      continue;
    }
    int32_t was_open = now->at_open;
    int32_t was_shut = now->at_shut;
    int64_t before = end_of(was_open, was_shut);
    read_ends(run, load, t_ms);
    int64_t here = end_of(now->at_open, now->at_shut);
    now->outside = 0;
    bool found = run->now.head->first == 1;
    if (spec->position != NONE && run->now.signals[spec->position].good == 1) {
      found = found || now->measured == 0;
      now->measured = 1;
    }
    bool both = (was_open == 1 && was_shut == 1) || (now->at_open == 1 && now->at_shut == 1);
    if (!found && !both && here != before && !explained(run, load, here, t_ms)) {
      bool to_open = here != NONE ? here == OPEN : before == SHUT;
      int32_t want = to_open ? WANT_OPEN : WANT_SHUT;
      command(run, t_ms, load, want, OUTSIDE, NONE, NONE, NO_END, NONE, NONE);
      now->outside = 1;
    }
    if (here != NONE) {
      now->late = 0;
      now->unplaced = 0;
    }
  }
}

/* A pulse that failed; after so many in a row the drive is locked out until a reset. */
static void did_not_arrive(const RunTables *run, int64_t load, int64_t author, int64_t t_ms) {
  const LoadSpec *spec = &run->plan.loads[load];
  LoadNow *now = &run->now.loads[load];
  now->failed = (int8_t)least(now->failed + 1, 100);
  if ((0 < spec->tries && spec->tries <= now->failed) && now->not_arriving == 0) {
    now->not_arriving = 1;
    put_event(run, t_ms, EVENT_MISSED, load, now->state, MISSED_LOCKED, now->chosen, author, 0.0);
    run->now.head->stirred = 1;
  }
}

/* A movement of ours ended at an end: the one that its pulse wanted, or back where it began. */
static void arrive(const RunTables *run, int64_t load, int64_t here, int64_t author, int64_t t_ms) {
  LoadNow *now = &run->now.loads[load];
  if (now->move_pulsed == 0) {
    return;
  }
  if (here == now->move_want) {
    now->failed = 0;
  } else if (here == now->move_from && here != now->chosen_want) {
    did_not_arrive(run, load, author, t_ms);
  }
}

/* The state of a drive whose time of travel is over. */
static int64_t time_is_over(const RunTables *run, int64_t load, int64_t here, int64_t author,
    int64_t t_ms) {
  LoadNow *now = &run->now.loads[load];
  int32_t want = now->chosen_want;
  int32_t decider = now->chosen;
  int64_t stands = here != NONE ? here : UNKNOWN;
  if (now->move_pulsed == 1) {
    now->blocked = NO_STATE;
    if (here == NONE) {
      now->late = 1;
      now->late_want = (int8_t)now->move_want;
    }
    if (stands != want) {
      now->blocked = (int16_t)want;
      now->blocked_who = (int16_t)decider;
      now->blocked_author = (int16_t)author;
      put_event(run, t_ms, EVENT_MISSED, load, stands, MISSED_ARRIVE, decider, author, 0.0);
      did_not_arrive(run, load, author, t_ms);
    } else if (here == now->move_want) {
      now->failed = 0;
    }
    run->now.head->stirred = 1;
  }
  return stands;
}

/* The state that its ends and its time of travel tell, before any new pulse. */
static int64_t follow_movement(const RunTables *run, int64_t load, int64_t here, int64_t author,
    int64_t t_ms) {
  const LoadSpec *spec = &run->plan.loads[load];
  LoadNow *now = &run->now.loads[load];
  int32_t was = now->state;
  if (now->move_ms != NEVER) {
    if (here == NONE) {
      now->move_left = 1;
    } else if (now->move_left == 1 || here != now->move_from) {
      now->move_ms = NEVER;
      arrive(run, load, here, author, t_ms);
      return here;
    }
    if (t_ms - now->move_ms < spec->travel_ms) {
      return was;
    }
    now->move_ms = NEVER;
    return time_is_over(run, load, here, author, t_ms);
  }
  if (here != NONE) {
    return here;
  }
  if (now->at_open == 1) {
    return UNKNOWN; /* both answer */
  }
  if (was == OPEN || was == SHUT) { /* it left an end, and no pulse of ours asked it to */
    now->move_ms = t_ms;
    now->move_from = (int16_t)was;
    now->move_left = 1;
    now->move_pulsed = 0;
    now->move_who = (int16_t)(now->outside == 1 ? spec->override : UNASKED);
    now->move_author = now->outside == 1 ? OUTSIDE : NOBODY;
    now->move_want = NO_WISH;
    return MOVING;
  }
  return was;
}

/* --- What is written when the state of a load, its decider, its want or its cause changes. */

/* The first rule that is not heard since the boot, as its load returns with policy off. */
static int64_t unheard_rule(const RunTables *run, int64_t load) {
  const LoadSpec *spec = &run->plan.loads[load];
  if (spec->policy == POLICY_OFF && run->now.head->free == 0) {
    for (int32_t k = spec->first; k < spec->override; k++) {
      if (run->plan.rules[k].priority > PRIORITY_OVERRIDE && run->now.rules[k].fresh == 0) {
        return k;
      }
    }
  }
  return NOBODY;
}

/* Write a row where the state, who decides, what is wanted, what delays or the cause changed.

   `rule` is the one that the change of state goes by. The cause (`cited`) is the rule that
   decides. Where no rule applies it is the one that matters: the first that is not heard since
   the power cut, else the one that asked last. */
static void note_change(const RunTables *run, int64_t load, int64_t was, int64_t state,
    int64_t rule, int64_t author, int64_t inhibit, int64_t kept, int64_t t_ms) {
  const LoadSpec *spec = &run->plan.loads[load];
  LoadNow *now = &run->now.loads[load];
  int32_t decider = now->chosen;
  int32_t want = now->chosen_want;
  int32_t decided_by = decider == spec->override ? now->override_author : NOBODY;
  int64_t cited = decider;
  if (decider >= spec->rest) {
    int64_t unheard = unheard_rule(run, load);
    cited = now->asker;
    if (unheard != NOBODY) {
      cited = unheard;
      if (inhibit == INHIBIT_NONE) {
        inhibit = INHIBIT_RETURN_OFF;
      }
    }
  } else if (run->plan.rules[decider].priority > PRIORITY_OVERRIDE) {
    now->asker = (int16_t)decider;
  }
  if (state == was && decider == now->decider && decided_by == now->author
      && want == now->want && inhibit == now->inhibit && cited == now->cited) {
    return;
  }
  double value = NAN;
  if (cited >= 0 && run->plan.rules[cited].signal != NONE) {
    value = run->now.signals[run->plan.rules[cited].signal].value;
  }
  put_row(run, t_ms, EVENT_LOAD, load, was, state, rule, author, decider, decided_by, want,
      inhibit, kept, cited, value);
  now->decider = (int16_t)decider;
  now->author = (int16_t)decided_by;
  now->want = (int16_t)want;
  now->inhibit = (int8_t)inhibit;
  now->cited = (int16_t)cited;
  if (state != was) {
    run->now.head->stirred = 1;
  }
}

/* --- One scan, its stages in the order of ENGINE.md; and when the next one can matter. */

/* What the samples of this scan come to, and what is sensed; before people are heard. */
static void trust(const RunTables *run, int64_t t_ms) {
  judge_probes(run, t_ms);
  if ((run->now.head->has & HAS_DERIVED) != 0) {
    derive(run);
  }
  if ((run->now.head->has & HAS_TWO_WAY) != 0) {
    sense_two_way(run, t_ms);
  }
  if ((run->now.head->has & HAS_DRIVES) != 0) {
    sense_drives(run, t_ms);
  }
}

/* From what people do to what is written: the rest of the scan. */
static void decide(const RunTables *run, int64_t t_ms, int64_t period_ms) {
  Head *head = run->now.head;
  int32_t has = head->has;
  if ((has & HAS_CONTROLS) != 0) {
    hear_people(run, t_ms);
  }
  if ((has & HAS_DOORWAYS) != 0) {
    reset_counts(run, t_ms);
  }
  if ((has & HAS_SCHEDULES) != 0) {
    judge_schedules(run, t_ms);
  }
  (void)judge_conditions(run, t_ms);
  int32_t loads = run->plan.loads_rows;
  for (int32_t load = 0; load < loads; load++) {
    LoadNow *decided = &run->now.loads[load];
    decided->chosen = (int16_t)say(run, load, t_ms);
    decided->chosen_want = (int16_t)want_of(run, load, decided->chosen);
  }
  for (int32_t g = 0; g < run->now.turns_rows; g++) {
    run->now.turns[g] = 0;
  }
  for (int32_t load = 0; load < loads; load++) {
    int32_t kind = run->plan.loads[load].kind;
    if (kind == KIND_TWO_WAY) {
      hold_two_way(run, load, t_ms);
    } else if (kind == KIND_DRIVE) {
      hold_drive(run, load, t_ms);
    } else {
      hold_steady(run, load, t_ms, period_ms);
    }
  }
  if (head->lines == 1 || (has & HAS_PATTERNS) != 0) {
    head->lines = 0;
    drive_lines(run, t_ms);
  }
  if ((has & HAS_MEMORY) != 0) {
    remember(run, t_ms);
  }
  if (head->first == 1) {
    head->stirred = 1; /* what a drive is found as is read by conditions in the next scan */
  }
  head->first = 0;
}

/* The first instant after the scan at `t_ms` at which something can change by itself.

   Where this scan changed something that the next one reads, that is the next one. */
static int64_t next_instant(const RunTables *run, int64_t t_ms, int64_t period_ms) {
  Head *head = run->now.head;
  if (head->stirred == 1) {
    head->stirred = 0;
    return t_ms + 1;
  }
  if (head->listens == 1 && !somebody_listens(run)) {
    head->listens = 0;
  }
  int32_t has = head->has;
  int64_t first = least(next_of_conditions(run, t_ms), next_of_rules(run, t_ms));
  first = least(first, next_of_holds(run, t_ms));
  first = least(first, next_of_contacts(run, t_ms, period_ms));
  if ((has & HAS_CONTROLS) != 0) {
    first = least(first, next_of_controls(run, t_ms));
  }
  if ((has & HAS_DOORWAYS) != 0) {
    first = least(first, next_reset(run));
  }
  if ((has & HAS_SCHEDULES) != 0) {
    first = least(first, next_of_calendar(run, t_ms));
  }
  if ((has & HAS_TWO_WAY) != 0) {
    first = least(first, next_of_two_way(run));
  }
  if ((has & HAS_DRIVES) != 0) {
    first = least(first, next_of_drives(run));
  }
  if ((has & HAS_MEMORY) != 0) {
    first = least(first, next_write(run, t_ms));
  }
  return first;
}

/* --- How a person's rule on a load ends, and whether it wants the load on. */

/* The state of a load that a want means; of a drive NO_WISH where it means no movement. */
static int64_t state_of_want(const LoadSpec *spec, int64_t want) {
  if (want > WANT_LEVEL) {
    return want - WANT_LEVEL;
  }
  if (spec->kind == KIND_DRIVE) {
    if (want == WANT_OPEN || want == WANT_ON) {
      return OPEN;
    }
    return want == WANT_SHUT ? SHUT : NO_WISH;
  }
  if (want == WANT_ON) {
    return spec->lowest;
  }
  return want == WANT_OPEN ? ON : OFF;
}

/* End an override rule as its ends_by says; wake one that waited for the clock. */
static void judge_override(const RunTables *run, int64_t load, int64_t under, int64_t t_ms) {
  const LoadSpec *spec = &run->plan.loads[load];
  LoadNow *now = &run->now.loads[load];
  Head *head = run->now.head;
  bool known = head->clock_known == 1;
  if (now->override_asleep == 1 && known) {
    now->override_asleep = 0;
  }
  if (now->override_ends_by == ENDS_BY_TIME && now->override_asleep == 0) {
    if (now->override_end_ms != FOREVER) {
      if (t_ms >= now->override_end_ms) {
        now->override = NONE;
      }
    } else if (known && t_ms + head->clock_base_ms >= now->override_until_ms) {
      now->override = NONE;
    }
  } else if (now->override_ends_by == ENDS_BY_AGREEMENT) {
    int64_t mine = state_of_want(spec, now->override);
    int32_t before = now->below;
    now->below = (int16_t)under;
    if (before != NO_STATE && before != under && under == mine) {
      now->override = NONE;
    }
  }
}

/* Whether the override rule, heard or not, wants the load to be on. */
static bool override_asks(const RunTables *run, int64_t load) {
  const LoadSpec *spec = &run->plan.loads[load];
  LoadNow *now = &run->now.loads[load];
  if (now->override == NONE) {
    return false;
  }
  if (now->override_asleep == 1 && now->relock == 0) {
    return false;
  }
  return state_of_want(spec, now->override) > OFF;
}

/* --- Pages, codes, selectors and buttons: what comes in is heard at its own instant, each once. */

/* All that people did since the scan before, in order of its instants.

   At one instant: the turns of groups, pages and codes, selectors, buttons, each in the order in
   which they came or stand in the plan. */
static void hear_people(const RunTables *run, int64_t t_ms) {
  begin_span(run);
  hold_positions(run, t_ms);
  int64_t at_ms = next_of_people(run);
  while (at_ms <= t_ms) {
    take_edges(run, at_ms);
    waiting_commands(run, t_ms, at_ms);
    hear_messages(run, t_ms, at_ms);
    turn_selectors(run, t_ms, at_ms);
    press_buttons(run, t_ms, at_ms);
    cross_doorways(run, at_ms);
    at_ms = next_of_people(run);
  }
  end_span(run);
}

/* Pages and codes of an instant. */
static void hear_messages(const RunTables *run, int64_t t_ms, int64_t at_ms) {
  Cursor *at = run->now.cursor;
  while (at->message < run->inputs.messages_rows
      && run->inputs.messages[at->message].t_ms <= at_ms) {
    const MessageRow *message = &run->inputs.messages[at->message];
    if (message->code >= 0) {
      hear_code(run, t_ms, message->code, message->t_ms);
    } else {
      act(run, t_ms, message->first, message->end, message->author);
    }
    at->message++;
  }
}

/* A remote's code; one that came again too soon is taken for the same press. */
static void hear_code(const RunTables *run, int64_t t_ms, int64_t code, int64_t at_ms) {
  const CodeSpec *spec = &run->plan.codes[code];
  int64_t last_ms = run->now.code_ms[code];
  run->now.code_ms[code] = at_ms;
  if (at_ms - last_ms >= spec->lockout_ms) {
    act(run, t_ms, spec->first, spec->end, spec->author);
  }
}

/* The position at which a selector stands does what it does. */
static void speak(const RunTables *run, int64_t s, int64_t t_ms) {
  const SelectorSpec *spec = &run->plan.selectors[s];
  int32_t level = run->now.inputs[run->plan.selectors[s].input].level;
  for (int32_t p = spec->first; p < spec->end; p++) {
    const PositionSpec *position = &run->plan.positions[p];
    if (position->pattern == level || position->pattern == ANY_PATTERN) {
      act(run, t_ms, position->first, position->end, spec->author);
    }
  }
}

/* Where a position holds again at once: it takes back what another has taken since. */
static void hold_positions(const RunTables *run, int64_t t_ms) {
  for (int32_t s = 0; s < run->plan.selectors_rows; s++) {
    const SelectorSpec *spec = &run->plan.selectors[s];
    SelectorNow *now = &run->now.selectors[s];
    if (spec->load == NONE || now->waits == 1) {
      continue;
    }
    LoadNow *held = &run->now.loads[spec->load];
    if (held->override == NONE || held->override_author != spec->author) {
      speak(run, s, t_ms);
    }
  }
}

/* A position that has stood for its time and is not the one that acted last. */
static void turn_selectors(const RunTables *run, int64_t t_ms, int64_t at_ms) {
  for (int32_t s = 0; s < run->plan.selectors_rows; s++) {
    const SelectorSpec *spec = &run->plan.selectors[s];
    SelectorNow *now = &run->now.selectors[s];
    if (run->now.inputs[spec->input].moved == 1) {
      now->since_ms = at_ms;
      now->waits = 1;
    }
    if (now->waits == 1 && at_ms - now->since_ms >= spec->settle_ms) {
      now->waits = 0;
      int32_t level = run->now.inputs[spec->input].level;
      if (level != now->spoken) {
        now->spoken = level;
        leave_position(run, spec->author);
        speak(run, s, t_ms);
      }
    }
  }
}

/* A short press is done; the button is left in a state. */
static void short_press(const RunTables *run, int64_t b, int64_t t_ms, int64_t at_ms,
    int64_t state) {
  const ButtonSpec *spec = &run->plan.buttons[b];
  ButtonNow *now = &run->now.buttons[b];
  now->state = (int8_t)state;
  now->fired_ms = at_ms;
  act(run, t_ms, spec->short_first, spec->short_end, spec->author);
}

/* What falls due while nothing moves: a short press that stayed alone, a long one. */
static void press_due(const RunTables *run, int64_t b, int64_t t_ms, int64_t at_ms) {
  const ButtonSpec *spec = &run->plan.buttons[b];
  ButtonNow *now = &run->now.buttons[b];
  if (now->state == RELEASED && at_ms - now->release_ms >= spec->double_ms) {
    short_press(run, b, t_ms, at_ms, IDLE);
  }
  bool has_long = spec->long_first < spec->long_end;
  if (now->state == PRESSED && has_long && at_ms - now->press_ms >= spec->long_ms) {
    now->state = DONE;
    now->fired_ms = at_ms;
    act(run, t_ms, spec->long_first, spec->long_end, spec->author);
  }
}

/* A button goes down. */
static void button_down(const RunTables *run, int64_t b, int64_t t_ms, int64_t at_ms) {
  const ButtonSpec *spec = &run->plan.buttons[b];
  ButtonNow *now = &run->now.buttons[b];
  bool has_long = spec->long_first < spec->long_end;
  bool has_double = spec->double_first < spec->double_end;
  if (now->state == RELEASED) {
    now->state = DONE;
    now->fired_ms = at_ms;
    act(run, t_ms, spec->double_first, spec->double_end, spec->author);
  } else if (at_ms - now->fired_ms < spec->lockout_ms) {
    now->state = DONE; /* the whole press is ignored */
  } else if (!has_long && !has_double) {
    short_press(run, b, t_ms, at_ms, DONE);
  } else {
    now->state = PRESSED;
    now->press_ms = at_ms;
  }
}

/* A button is released. */
static void button_up(const RunTables *run, int64_t b, int64_t t_ms, int64_t at_ms) {
  const ButtonSpec *spec = &run->plan.buttons[b];
  ButtonNow *now = &run->now.buttons[b];
  if (now->state != PRESSED) {
    now->state = IDLE;
  } else if (spec->double_first < spec->double_end) {
    now->state = RELEASED;
    now->release_ms = at_ms;
  } else {
    short_press(run, b, t_ms, at_ms, IDLE);
  }
}

/* First the times of long and double presses, then the edges. */
static void press_buttons(const RunTables *run, int64_t t_ms, int64_t at_ms) {
  for (int32_t b = 0; b < run->plan.buttons_rows; b++) {
    press_due(run, b, t_ms, at_ms);
    int32_t source = run->plan.buttons[b].input;
    if (run->now.inputs[source].moved == 0) {
      continue;
    }
    if (is_high(run, source)) {
      button_down(run, b, t_ms, at_ms);
    } else {
      button_up(run, b, t_ms, at_ms);
    }
  }
}

/* The first instant at which something that people did is heard. */
static int64_t next_of_people(const RunTables *run) {
  Cursor *at = run->now.cursor;
  int64_t first = next_edge(run);
  if (at->message < run->inputs.messages_rows) {
    first = least(first, run->inputs.messages[at->message].t_ms);
  }
  for (int32_t b = 0; b < run->plan.buttons_rows; b++) {
    const ButtonSpec *button = &run->plan.buttons[b];
    ButtonNow *pressed = &run->now.buttons[b];
    if (pressed->state == RELEASED) {
      first = least(first, pressed->release_ms + button->double_ms);
    }
    if (pressed->state == PRESSED && button->long_first < button->long_end) {
      first = least(first, pressed->press_ms + button->long_ms);
    }
  }
  for (int32_t s = 0; s < run->plan.selectors_rows; s++) {
    if (run->now.selectors[s].waits == 1) {
      int64_t settle_ms = run->plan.selectors[s].settle_ms;
      first = least(first, run->now.selectors[s].since_ms + settle_ms);
    }
  }
  for (int32_t load = 0; load < run->plan.loads_rows; load++) {
    first = least(first, run->now.loads[load].wait_ms);
  }
  return first;
}

/* The first instant after `t_ms` at which a control acts, or a position holds again. */
static int64_t next_of_controls(const RunTables *run, int64_t t_ms) {
  int64_t first = next_of_people(run);
  for (int32_t s = 0; s < run->plan.selectors_rows; s++) {
    int32_t load = run->plan.selectors[s].load;
    if (load != NONE && run->now.loads[load].override == NONE) {
      first = least(first, t_ms + 1);
    }
  }
  return first;
}

/* After a boot nothing is known of what was pressed before.

   The position that a selector is found at counts from the boot; where it is to say nothing
   then, it is as if it had acted. */
static void boot_controls(const RunTables *run, int64_t t_ms) {
  for (int32_t b = 0; b < run->plan.buttons_rows; b++) {
    ButtonNow *button = &run->now.buttons[b];
    button->state = IDLE;
    button->press_ms = NEVER;
    button->release_ms = NEVER;
    button->fired_ms = NEVER;
  }
  for (int32_t s = 0; s < run->plan.selectors_rows; s++) {
    const SelectorSpec *spec = &run->plan.selectors[s];
    SelectorNow *selector = &run->now.selectors[s];
    selector->since_ms = t_ms;
    selector->spoken = spec->at_boot == 1 ? UNREAD : run->now.inputs[spec->input].level;
    selector->waits = spec->at_boot;
  }
  for (int32_t code = 0; code < run->plan.codes_rows; code++) {
    run->now.code_ms[code] = NEVER;
  }
  for (int32_t mode = 0; mode < run->plan.modes_rows; mode++) {
    run->now.modes[mode] = run->plan.modes[mode].start;
  }
}

/* --- The power goes and comes back: events, dark loads, lines without a level, a torn write. */

/* The power goes: an event, dark loads, no level on any line, perhaps a torn write. */
static void power_off(const RunTables *run, int64_t cut, int64_t start_ms) {
  const CutRow *spec = &run->inputs.cuts[cut];
  int64_t at_ms = most(spec->from_ms, start_ms);
  put_power(run, at_ms, 1, 0);
  for (int32_t load = 0; load < run->plan.loads_rows; load++) {
    LoadNow *now = &run->now.loads[load];
    int32_t dark = run->plan.loads[load].unpowered;
    put_row(run, at_ms, EVENT_LOAD, load, now->state, dark, NO_POWER, NOBODY, NO_POWER, NOBODY,
        dark, INHIBIT_NONE, INHIBIT_NONE, NOBODY, NAN);
    now->state = (int16_t)dark; /* the power may go again before anything was scanned */
  }
  for (int32_t line = 0; line < run->plan.lines_rows; line++) {
    put_line(run, at_ms, line, NO_LEVEL);
  }
  for (int32_t line = 0; line < run->plan.lines_rows; line++) {
    run->now.lines[line].shown = run->plan.lines[line].boot;
    put_line(run, spec->to_ms, line, run->plan.lines[line].boot);
  }
  if (spec->torn != NONE) {
    tear(run, spec->torn);
  }
}

/* Write that the power went or came back. */
static void put_power(const RunTables *run, int64_t at_ms, int64_t was, int64_t now) {
  put_row(run, at_ms, EVENT_POWER, 0, was, now, NO_POWER, NOBODY, NO_POWER, NOBODY, 0,
      INHIBIT_NONE, INHIBIT_NONE, NOBODY, NAN);
}

/* --- What is retained, gathered into its cells once a scan. */

/* Write a cell; 1 where it was another. */
static int64_t put_cell(const RunTables *run, int64_t cell, int64_t value) {
  int32_t changed = run->now.cells[cell] != value ? 1 : 0;
  run->now.cells[cell] = value;
  return changed;
}

/* The override rule of a load into its cells; 1 where one of them was another. */
static int64_t gather_override(const RunTables *run, int64_t load, int64_t cell) {
  LoadNow *now = &run->now.loads[load];
  bool there = now->override != NONE;
  int64_t changed = put_cell(run, cell + OVERRIDE_THERE, there ? 1 : 0);
  changed |= put_cell(run, cell + OVERRIDE_WANT, there ? now->override : 0);
  changed |= put_cell(run, cell + OVERRIDE_AUTHOR, there ? now->override_author : 0);
  changed |= put_cell(run, cell + OVERRIDE_ENDS_BY, there ? now->override_ends_by : 0);
  changed |= put_cell(run, cell + OVERRIDE_END, there ? now->override_stored_ms : 0);
  changed |= put_cell(run, cell + OVERRIDE_MODE, there ? now->override_mode : 0);
  changed |= put_cell(run, cell + OVERRIDE_VALUE, there ? now->override_value : 0);
  return changed;
}

/* What is left of a command of a group; 1 where a cell was another. */
static int64_t gather_group(const RunTables *run, int64_t g, int64_t cell) {
  const GroupSpec *spec = &run->plan.groups[g];
  int64_t changed = 0;
  int32_t left = NONE;
  for (int32_t i = spec->first; i < spec->end; i++) {
    int32_t load = run->plan.group_members[i];
    LoadNow *now = &run->now.loads[load];
    bool waits = now->wait_ms != FOREVER && now->wait_group == g;
    if (waits) {
      left = load;
    }
    int64_t at = cell + GROUP_FIRST + i - spec->first;
    changed |= put_cell(run, at, waits ? now->wait + 1 : 0);
  }
  if (spec->first == spec->end) {
    return changed; /* of a group whose members are all only planned */
  }
  bool there = left != NONE;
  LoadNow *next_one = &run->now.loads[there ? left : run->plan.group_members[spec->first]];
  changed |= put_cell(run, cell + GROUP_AUTHOR, there ? next_one->wait_author : 0);
  changed |= put_cell(run, cell + GROUP_ENDS_BY, there ? next_one->wait_ends_by : 0);
  changed |= put_cell(run, cell + GROUP_FOR, there ? next_one->wait_for_ms : 0);
  changed |= put_cell(run, cell + GROUP_UNTIL, there ? next_one->wait_until_ms : 0);
  changed |= put_cell(run, cell + GROUP_MODE, there ? next_one->wait_mode : 0);
  changed |= put_cell(run, cell + GROUP_VALUE, there ? next_one->wait_value : 0);
  return changed;
}

/* The lock-out of a load, with the rules that it waits for; 1 where it was another. */
static int64_t gather_lock(const RunTables *run, int64_t load, int64_t cell, int64_t end) {
  LoadNow *now = &run->now.loads[load];
  int32_t first = run->plan.loads[load].first;
  bool locked = now->locked == 1;
  int64_t changed = put_cell(run, cell + LOCK_THERE, now->locked);
  changed |= put_cell(run, cell + LOCK_AUTHOR, locked ? now->lock_author : 0);
  for (int64_t at = cell + LOCK_FIRST; at < end; at++) {
    int32_t noted = run->now.rules[first + at - cell - LOCK_FIRST].noted;
    changed |= put_cell(run, at, locked ? noted : 0);
  }
  return changed;
}

/* The begun moments of a schedule; 1 where one was another. */
static int64_t gather_moments(const RunTables *run, int64_t s, int64_t cell, int64_t end) {
  int32_t held = run->now.schedules[s].held;
  int32_t first = run->plan.begun[s].first;
  int64_t changed = put_cell(run, cell + MOMENTS_HELD, held);
  for (int64_t at = cell + MOMENTS_FIRST; at < end; at++) {
    int64_t i = at - cell - MOMENTS_FIRST;
    changed |= put_cell(run, at, i < held ? run->now.begun_ms[first + i] : 0);
  }
  return changed;
}

/* Every field as it is now, into its cells; whether one is not as it was a scan ago. */
static bool gather(const RunTables *run) {
  int64_t changed = 0;
  for (int32_t f = 0; f < run->plan.fields_rows; f++) {
    const FieldSpec *field = &run->plan.fields[f];
    int32_t kind = field->kind;
    int32_t who = field->who;
    int32_t cell = field->cell;
    if (kind == FIELD_LOAD) {
      changed |= put_cell(run, cell, run->now.loads[who].state);
    } else if (kind == FIELD_MODE) {
      changed |= put_cell(run, cell, run->now.modes[who]);
    } else if (kind == FIELD_COUNT) {
      changed |= put_cell(run, cell, run->now.doorways[who].count);
    } else if (kind == FIELD_BAND) {
      changed |= put_cell(run, cell, run->now.conditions[who].own);
    } else if (kind == FIELD_TRIP) {
      changed |= put_cell(run, cell, run->now.rules[who].tripped);
    } else if (kind == FIELD_NOT_ARRIVING) {
      changed |= put_cell(run, cell, run->now.loads[who].not_arriving);
    } else if (kind == FIELD_OVERRIDE) {
      changed |= gather_override(run, who, cell);
    } else if (kind == FIELD_LOCK) {
      changed |= gather_lock(run, who, cell, field->end);
    } else if (kind == FIELD_MOMENTS) {
      changed |= gather_moments(run, who, cell, field->end);
    } else if (kind == FIELD_GROUP) {
      changed |= gather_group(run, who, cell);
    }
  }
  return changed != 0;
}

/* --- Who has the say over each load: trips, rules by priority, overrides, and what is at idle. */

/* A trip latches; a reset takes effect in its scan, where its condition does not hold. */
static bool judge_trip(const RunTables *run, int64_t load, int64_t k, bool holds, int64_t t_ms) {
  RuleNow *now = &run->now.rules[k];
  int32_t was = now->tripped;
  if (now->reset != 0) {
    if (!holds) {
      now->tripped = 0;
      put_event(run, t_ms, EVENT_TRIP, load, 1, 0, k, now->reset - 1, 0.0);
    }
    now->reset = 0;
  }
  if (holds && was == 0) {
    now->tripped = 1;
    put_event(run, t_ms, EVENT_TRIP, load, 0, 1, k, NOBODY, 0.0);
  }
  return now->tripped == 1;
}

/* Whether a schedule or a demand may be heard again after a boot. */
static bool heard_since_boot(const RunTables *run, int64_t load, int64_t k) {
  const RuleSpec *spec = &run->plan.rules[k];
  RuleNow *now = &run->now.rules[k];
  bool lets_go = run->now.conditions[spec->node].let_go == 1;
  now->still = lets_go ? 0 : 1;
  if (run->now.head->free == 1) {
    return true;
  }
  int32_t policy = run->plan.loads[load].policy;
  if (policy == POLICY_OFF) {
    if (lets_go) {
      now->fresh = 1;
    }
    return now->fresh == 1;
  }
  return policy != POLICY_FOLLOW_RULES || run->now.loads[load].decided == 1;
}

/* Whether a rule is heard now. */
static bool judge_rule(const RunTables *run, int64_t load, int64_t k, int64_t t_ms) {
  bool holds = false;
  const RuleSpec *spec = &run->plan.rules[k];
  RuleNow *now = &run->now.rules[k];
  /* of a fault: its probe is not good, and was last good long enough ago */
  if (spec->node == NONE) {
    ProbeNow *probe = &run->now.probes[spec->probe];
    bool bad = ((spec->qualities >> probe->quality) & 1) == 1;
    holds = bad && t_ms - probe->good_ms >= spec->after_ms;
  } else {
    holds = run->now.conditions[spec->node].now == 1;
  }
  if (spec->priority == PRIORITY_TRIP) {
    holds = judge_trip(run, load, k, holds, t_ms);
  }
  bool speaks = holds;
  if (spec->priority == PRIORITY_SCHEDULE || spec->priority == PRIORITY_DEMAND) {
    bool may = heard_since_boot(run, load, k);
    speaks = speaks && may;
  }
  if (spec->pulse_ms != NONE) {
    /* It speaks for its time from the scan in which it becomes active, heard or not. */
    if (holds && now->was == 0) {
      now->began_ms = t_ms;
    } else if (!holds) {
      now->began_ms = FOREVER;
    }
    now->was = holds ? 1 : 0;
    speaks = speaks && (0 <= t_ms - now->began_ms && t_ms - now->began_ms < spec->pulse_ms);
  }
  return speaks;
}

/* Whether each probe that a fault rule of the load looks at has been good since the boot. */
static void judge_decided(const RunTables *run, int64_t load) {
  const LoadSpec *spec = &run->plan.loads[load];
  for (int32_t k = spec->first; k < spec->override; k++) {
    const RuleSpec *rule = &run->plan.rules[k];
    if (rule->priority == PRIORITY_FAULT && rule->node == NONE) {
      if (run->now.probes[rule->probe].been_good == 0) {
        return;
      }
    }
  }
  run->now.loads[load].decided = 1;
}

/* The rule that decides over a load, as a row; which rules ask for it to be on is noted. */
static int64_t say(const RunTables *run, int64_t load, int64_t t_ms) {
  const LoadSpec *spec = &run->plan.loads[load];
  LoadNow *now = &run->now.loads[load];
  int32_t override = spec->override;
  int32_t rest = spec->rest;
  int32_t last = spec->last;
  if (now->decided == 0) {
    judge_decided(run, load);
  }
  int32_t above = NONE;
  int32_t below = NONE;
  bool some = false;
  for (int32_t k = spec->first; k < override; k++) {
    const RuleSpec *rule = &run->plan.rules[k];
    RuleNow *rule_now = &run->now.rules[k];
    bool speaks = judge_rule(run, load, k, t_ms);
    rule_now->active = speaks ? 1 : 0;
    bool asks = false;
    if (speaks) {
      some = true;
      asks = state_of_want(spec, rule->want) > OFF;
      if (rule->priority < PRIORITY_OVERRIDE) {
        if (above == NONE) {
          above = k;
        }
      } else if (below == NONE) {
        below = k;
      }
    }
    if (!asks && now->relock == 1 && rule_now->still == 1) {
      asks = true; /* of a lock-out that the boot brought back: its condition is not false yet */
    }
    rule_now->asking = asks ? 1 : 0;
  }
  int32_t idle = rest;
  if (now->last != NONE) {
    bool spoken = now->override != NONE
        && (now->override_asleep == 0 || run->now.head->clock_known == 1);
    if (some || spoken) {
      now->last = NONE;
    } else {
      idle = last;
    }
  }
  if (now->override != NONE) {
    judge_override(run, load, want_of(run, load, below != NONE ? below : idle), t_ms);
  }
  run->now.rules[override].asking = override_asks(run, load) ? 1 : 0;
  bool rest_asks = idle == rest && want_of(run, load, rest) > OFF;
  run->now.rules[rest].asking = rest_asks ? 1 : 0;
  run->now.rules[last].asking = idle == last && now->last > OFF ? 1 : 0;
  if (above != NONE) {
    return above;
  }
  if (now->override != NONE && now->override_asleep == 0) {
    return override;
  }
  return below != NONE ? below : idle;
}

/* The state of its load that a rule wants. */
static int64_t want_of(const RunTables *run, int64_t load, int64_t k) {
  const LoadSpec *spec = &run->plan.loads[load];
  LoadNow *now = &run->now.loads[load];
  if (k == spec->override) {
    return state_of_want(spec, now->override);
  }
  if (k == spec->last) {
    return now->last;
  }
  return state_of_want(spec, run->plan.rules[k].want);
}

/* --- When what decides a load can change by itself: faults, pulses, overrides, waits. */

/* Whether a rule, or a lock-out kept over a boot, waits for a condition to become false. */
static bool somebody_listens(const RunTables *run) {
  for (int32_t load = 0; load < run->plan.loads_rows; load++) {
    const LoadSpec *spec = &run->plan.loads[load];
    if (run->now.loads[load].relock == 1) {
      return true;
    }
    if (spec->policy == POLICY_OFF && run->now.head->free == 0) {
      for (int32_t k = spec->first; k < spec->override; k++) {
        if (run->plan.rules[k].priority > PRIORITY_OVERRIDE && run->now.rules[k].fresh == 0) {
          return true;
        }
      }
    }
  }
  return false;
}

/* The first instant after `t_ms` at which a fault counts, a pulse or an override rule ends. */
static int64_t next_of_rules(const RunTables *run, int64_t t_ms) {
  int64_t first = FOREVER;
  for (int32_t k = 0; k < run->plan.rules_rows; k++) {
    const RuleSpec *spec = &run->plan.rules[k];
    RuleNow *now = &run->now.rules[k];
    if (spec->priority == PRIORITY_FAULT && spec->node == NONE) {
      ProbeNow *probe = &run->now.probes[spec->probe];
      int64_t counts_ms = probe->good_ms + spec->after_ms;
      if (probe->quality != GOOD && counts_ms > t_ms) {
        first = least(first, counts_ms);
      }
    }
    if (spec->pulse_ms != NONE && now->began_ms != FOREVER) {
      int64_t over_ms = now->began_ms + spec->pulse_ms;
      if (over_ms > t_ms) {
        first = least(first, over_ms);
      }
    }
  }
  for (int32_t load = 0; load < run->plan.loads_rows; load++) {
    LoadNow *override = &run->now.loads[load];
    if (override->override != NONE) {
      first = least(first, override->override_end_ms);
      bool by_clock = override->override_ends_by == ENDS_BY_TIME
          && override->override_end_ms == FOREVER;
      if (by_clock && run->now.head->clock_known == 1) {
        first = least(first, override->override_until_ms - run->now.head->clock_base_ms);
      }
    }
  }
  return first;
}

/* --- Inside which bounds nothing can change, and samples that are taken without a scan. */

/* Per probe the open interval (low, high) inside which no condition on it can change.

   Of a probe that a derived signal reads each reading may change something: that is noted. While
   something waits for a condition to become false, that counts as a change. */
static void quiet_bounds(const RunTables *run) {
  bool listens = run->now.head->listens == 1;
  int32_t probes = run->plan.probes_rows;
  for (int32_t p = 0; p < probes; p++) {
    run->now.quiet[p].low = -INFINITY;
    run->now.quiet[p].high = INFINITY;
    run->now.quiet[p].feeds = 0;
  }
  for (int32_t index = 0; index < run->plan.signal_members_rows; index++) {
    int32_t member = run->plan.signal_members[index];
    if (member < probes) {
      run->now.quiet[member].feeds = 1;
    }
  }
  for (int32_t load = 0; load < run->plan.loads_rows; load++) {
    int32_t position = run->plan.loads[load].position;
    if (0 <= position && position < probes) {
      run->now.quiet[position].low = INFINITY;
    }
  }
  for (int32_t n = 0; n < run->plan.conditions_rows; n++) {
    const ConditionSpec *spec = &run->plan.conditions[n];
    ConditionNow *now = &run->now.conditions[n];
    if (spec->kind > NODE_WITHIN || spec->signal >= probes) {
      continue;
    }
    double low = -INFINITY;
    double high = INFINITY;
    if (spec->kind == NODE_WITHIN) {
      if (now->now == 1) {
        low = spec->on;
        high = spec->off;
      } else if (run->now.signals[spec->signal].value < spec->on) {
        high = spec->on;
      } else {
        low = spec->off;
      }
    } else if (spec->rising == 1) {
      if (now->now == 1 || (listens && now->let_go == 0)) {
        low = spec->off;
      }
      if (now->now == 0) {
        high = listens && now->let_go == 1 ? spec->off : spec->on;
      }
    } else {
      if (now->now == 1 || (listens && now->let_go == 0)) {
        high = spec->off;
      }
      if (now->now == 0) {
        low = listens && now->let_go == 1 ? spec->off : spec->on;
      }
    }
    Quiet *quiet = &run->now.quiet[spec->signal];
    quiet->low = most_real(quiet->low, low);
    quiet->high = least_real(quiet->high, high);
  }
}

/* Whether what was read of a probe may change more than a derived signal. */
static bool stirred(const RunTables *run, int64_t p) {
  ProbeNow *now = &run->now.probes[p];
  Quiet *quiet = &run->now.quiet[p];
  if (now->quality != now->seen_quality) {
    return true;
  }
  if (now->quality != GOOD) {
    return now->good_count > 0; /* a run that a silence would break */
  }
  return !(quiet->low < now->value && now->value < quiet->high);
}

/* Whether what came in since the last scan can change derived signals alone. */
static bool only_feeds(const RunTables *run) {
  for (int32_t p = 0; p < run->plan.probes_rows; p++) {
    if (stirred(run, p)) {
      return false;
    }
  }
  return true;
}

/* Take the samples that stir nothing; the instant at which a scan must be visited.

   Whatever comes in before the tick of the deadline is taken by a tick of its own. While quality
   stays as it was, and values where no condition can change, that tick need not be visited,
   however many samples share it. */
static int64_t skip_samples(const RunTables *run, int64_t timer_ms, int64_t t_ms,
    int64_t period_ms) {
  Cursor *cursor = run->now.cursor;
  int32_t samples = run->inputs.sample_ms_rows;
  int64_t stale_ms = next_judgement(run, t_ms);
  int64_t i = cursor->sample;
  cursor->feeds = 0;
  for (;;) {
    int64_t at_ms = least(stale_ms, timer_ms);
    int64_t last_ms = at_ms - period_ms;
    while (i < samples && run->inputs.sample_ms[i] <= last_ms) {
      int64_t p = run->inputs.sample_probe[i];
      trace_sample(run, i);
      i++;
      bool stirs = stirred(run, p);
      bool feeds = run->now.quiet[p].feeds == 1 && run->now.probes[p].quality == GOOD;
      if (stirs || feeds) {
        cursor->sample = i;
        cursor->feeds = stirs ? 0 : 1;
        return run->inputs.sample_ms[i - 1];
      }
    }
    if (at_ms < timer_ms) {
      stale_ms = next_judgement(run, t_ms);
      if (stale_ms > at_ms) {
        continue; /* the probe that was due has spoken */
      }
    }
    cursor->sample = i;
    if (i < samples) {
      at_ms = least(at_ms, run->inputs.sample_ms[i]); /* in a tick of its own */
    }
    return at_ms;
  }
}

/* --- From a sample to a trusted value: range, jump, stuck, filter, calibration, quality. */

/* Jump, then stuck, of a raw sample inside the range; GOOD where it is neither. */
static int64_t judged(const ProbeSpec *spec, ProbeNow *now, int64_t t_ms, double raw) {
  if (spec->jump_after > 0) {
    bool far = fabs(raw - now->base) > spec->jump_per_s * (double)(t_ms - now->base_ms) / 1000.0;
    if (!isnan(now->base) && far) {
      int32_t count = 1;
      if (!isnan(now->jumped)) {
        if (fabs(raw - now->jumped) <= spec->jump_per_s * (double)(t_ms - now->jumped_ms) / 1000.0) {
          count = now->jumped_count + 1;
        }
      }
      now->jumped = raw;
      now->jumped_ms = t_ms;
      now->jumped_count = (int16_t)count;
      if (count < spec->jump_after) {
        return JUMP;
      }
    }
    now->jumped = NAN;
    now->base = raw;
    now->base_ms = t_ms;
  }
  if (spec->stuck_ms > 0) {
    if (!(fabs(raw - now->anchor) <= spec->stuck_band)) { /* also for the first: NaN */
      now->anchor = raw;
      now->anchor_ms = t_ms;
    } else if (t_ms - now->anchor_ms >= spec->stuck_ms) {
      return STUCK;
    }
  }
  return GOOD;
}

/* Put a good value into the ring of each rate that reads the probe.

   The first one held is what the newest is compared with: the newest that is old enough. */
static void remember_good(const RunTables *run, int64_t p, int64_t t_ms) {
  const ProbeSpec *spec = &run->plan.probes[p];
  for (int32_t index = spec->rates; index < spec->rates_end; index++) {
    int32_t d = run->plan.rate_feeds[index];
    const DerivedSpec *signal = &run->plan.derived[d];
    RateNow *rate = &run->now.rates[d];
    int32_t ring = signal->ring;
    int32_t room = signal->room;
    int64_t first = rate->first;
    int64_t held = rate->held;
    if (held == room) { /* more readings than were planned for: the oldest gives way */
      first = remainder_of(first + 1, room);
      held--;
    }
    int64_t at = ring + remainder_of(first + held, room);
    run->now.rate_ms[at] = t_ms;
    run->now.rate_values[at] = run->now.probes[p].value;
    held++;
    while (held > 1
        && t_ms - run->now.rate_ms[ring + remainder_of(first + 1, room)] >= signal->over_ms) {
      first = remainder_of(first + 1, room);
      held--;
    }
    rate->first = (int32_t)first;
    rate->held = (int32_t)held;
  }
}

/* One sample of probe `p`; returns what entered the filter, calibrated, else NaN.

   A missing reading (NaN) is no sample. What is out of range, or jumped, never reaches the
   filter and moves no clock of it. In the warm-up samples fill the filter and count for nothing
   else. */
static double take_sample(const RunTables *run, int64_t p, int64_t t_ms, double raw) {
  const ProbeSpec *spec = &run->plan.probes[p];
  ProbeNow *now = &run->now.probes[p];
  double latest = NAN;
  if (!isnan(raw)) {
    now->last_ms = t_ms;
    bool warm = t_ms >= run->now.head->booted_ms + spec->warm_ms;
    int64_t verdict = GOOD;
    if (raw < spec->low || raw > spec->high) {
      verdict = RANGE;
    } else if (warm && (spec->jump_after > 0 || spec->stuck_ms > 0)) {
      verdict = judged(spec, now, t_ms, raw);
    }
    if (verdict != RANGE && verdict != JUMP) {
      double entered = raw;
      if (spec->filter >= FILTER_MEAN) {
        entered = of_the_last(run, p, raw);
      } else if (spec->filter == FILTER_TIME) {
        if (!isnan(now->filtered)) {
          double dt_s = (double)(t_ms - now->entered_ms) * 0.001;
          double share = 1.0 - exp(-dt_s / spec->tau_s);
          entered = now->filtered + share * (raw - now->filtered);
        }
        now->entered_ms = t_ms;
        now->filtered = entered;
      }
      latest = spec->intercept + spec->slope * entered;
    }
    if (warm && verdict != GOOD) {
      now->quality = (int8_t)verdict;
      now->good_count = 0;
    } else if (warm) {
      now->good_count = (int32_t)((int64_t)now->good_count + 1);
      if (now->quality != GOOD && now->good_count >= spec->good_run) {
        now->quality = GOOD;
        now->been_good = 1;
      }
      if (now->quality == GOOD) {
        now->value = latest;
        now->good_ms = t_ms;
        if (spec->rates < spec->rates_end) {
          remember_good(run, p, t_ms);
        }
      }
    }
  }
  return latest;
}

/* What warms up, or has been silent for too long, is not good; a change is an event. */
static void judge_probes(const RunTables *run, int64_t t_ms) {
  int64_t booted_ms = run->now.head->booted_ms;
  for (int32_t p = 0; p < run->plan.probes_rows; p++) {
    const ProbeSpec *spec = &run->plan.probes[p];
    ProbeNow *now = &run->now.probes[p];
    SignalNow *signal = &run->now.signals[p];
    if (t_ms < booted_ms + spec->warm_ms) {
      now->quality = WARMING;
      now->good_count = 0;
    } else if (spec->stale_ms != NONE && t_ms - now->last_ms >= spec->stale_ms) {
      now->quality = STALE;
      now->good_count = 0;
    }
    if (now->quality != now->seen_quality) {
      put_event(run, t_ms, EVENT_PROBE, p, now->seen_quality, now->quality, 0, NOBODY, now->value);
      now->seen_quality = now->quality;
    }
    signal->good = now->quality == GOOD ? 1 : 0;
    signal->value = now->value;
    signal->good_ms = now->good_ms;
  }
}

/* The first instant at which a probe goes stale or is warm, unless a sample comes before. */
static int64_t next_judgement(const RunTables *run, int64_t t_ms) {
  int64_t booted_ms = run->now.head->booted_ms;
  int64_t first = FOREVER;
  for (int32_t p = 0; p < run->plan.probes_rows; p++) {
    const ProbeSpec *spec = &run->plan.probes[p];
    ProbeNow *now = &run->now.probes[p];
    /* One that is stale already may still have a run of good samples to lose. */
    bool speaks = now->quality != STALE || now->good_count > 0;
    if (spec->stale_ms != NONE && speaks) {
      first = least(first, now->last_ms + spec->stale_ms);
    }
    if (t_ms < booted_ms + spec->warm_ms) {
      first = least(first, booted_ms + spec->warm_ms);
    }
  }
  return first;
}

/* --- A two-way circuit: the relay changes over where the state wanted is not the one sensed. */

/* What is sensed now; where nothing senses it, the lamp follows its relay when it settles. */
static int64_t sensed_now(const RunTables *run, int64_t load, int64_t t_ms) {
  const LoadSpec *spec = &run->plan.loads[load];
  LoadNow *now = &run->now.loads[load];
  if (spec->sense != NONE) {
    return level_at(run, spec->sense, t_ms) != 0 ? 1 : 0;
  }
  if (now->sensed == UNSENSED) {
    return 0;
  }
  if (now->toggled_ms != NEVER && t_ms - now->toggled_ms >= spec->dead_ms) {
    return now->tried;
  }
  return now->sensed;
}

/* What is sensed; a change that the relay did not make is a person at the wall switch. */
static void sense_two_way(const RunTables *run, int64_t t_ms) {
  for (int32_t load = 0; load < run->plan.loads_rows; load++) {
    if (run->plan.loads[load].kind != KIND_TWO_WAY) {
      continue;
    }
    LoadNow *now = &run->now.loads[load];
    int64_t found = sensed_now(run, load, t_ms);
    if (now->sensed == UNSENSED) { /* what is found at boot is no command */
      now->sensed = (int8_t)found;
      now->state = (int16_t)found;
      now->on_ms = t_ms;
      now->off_ms = run->now.head->free == 1 ? NEVER : t_ms;
    } else if (found != now->sensed) {
      now->sensed = (int8_t)found;
      if (now->toggled_ms == NEVER) {
        int32_t want = found == 1 ? WANT_ON : WANT_OFF;
        command(run, t_ms, load, want, WALL, NONE, NONE, NO_END, NONE, NONE);
        now->unasked = 1;
      }
      now->toggled_ms = NEVER;
    }
  }
}

/* One scan of a two-way circuit: its state is the sensed one. */
static void hold_two_way(const RunTables *run, int64_t load, int64_t t_ms) {
  const LoadSpec *spec = &run->plan.loads[load];
  LoadNow *now = &run->now.loads[load];
  int32_t decider = now->chosen;
  int32_t want = now->chosen_want;
  int32_t priority = run->plan.rules[decider].priority;
  int32_t author = priority == PRIORITY_OVERRIDE ? now->override_author : NOBODY;
  int32_t was = now->state;
  int64_t kept = INHIBIT_NONE;
  int32_t rule = decider;
  int32_t state = now->sensed;
  if (state != was) {
    if (now->unasked == 1) {
      rule = spec->override;
      author = WALL;
      kept = kept_back(run, load, state, PRIORITY_OVERRIDE);
    } else {
      kept = kept_back(run, load, state, priority);
    }
    now->unasked = 0;
    enter(run, load, state, t_ms);
    now->kept = INHIBIT_NONE;
    now->kept_for = NO_STATE;
  }
  if (now->locked == 1) {
    let_go_of_lock(run, load, t_ms);
  }
  int64_t inhibit = held_back(run, load, want, priority, t_ms);
  int32_t target = inhibit != INHIBIT_NONE ? state : want;
  if (run_out(run, load, want, priority, target, t_ms)) {
    target = OFF;
    lock_out(run, load, t_ms);
    run->now.head->stirred = 1; /* until it is sensed off, each scan begins it anew */
  }
  if (now->toggled_ms != NEVER && t_ms - now->toggled_ms >= spec->travel_ms) {
    now->toggled_ms = NEVER;
    now->blocked = now->tried;
    put_event(run, t_ms, EVENT_MISSED, load, state, MISSED_FOLLOW, decider, author, 0.0);
    run->now.head->stirred = 1;
  }
  if (now->blocked != NO_STATE && now->blocked != target) {
    now->blocked = NO_STATE;
    run->now.head->stirred = 1;
  }
  if (now->toggled_ms == NEVER) {
    if (target != state && now->blocked == NO_STATE) {
      LineNow *relay = &run->now.lines[spec->line];
      relay->closed = (int8_t)(1 - relay->closed);
      run->now.head->lines = 1;
      now->toggled_ms = t_ms;
      now->tried = (int16_t)target;
      run->now.head->stirred = 1;
    } else {
      now->kept = (int8_t)inhibit;
      now->kept_for = (int16_t)(inhibit != INHIBIT_NONE ? (int64_t)1 - target : NO_STATE);
    }
  }
  note_change(run, load, was, state, rule, author, inhibit, kept, t_ms);
}

/* The first instant at which a lamp should have followed its relay. */
static int64_t next_of_two_way(const RunTables *run) {
  int64_t first = FOREVER;
  for (int32_t load = 0; load < run->plan.loads_rows; load++) {
    const LoadSpec *spec = &run->plan.loads[load];
    LoadNow *now = &run->now.loads[load];
    if (spec->kind == KIND_TWO_WAY && now->toggled_ms != NEVER) {
      int64_t wait_ms = spec->sense == NONE ? spec->dead_ms : spec->travel_ms;
      first = least(first, now->toggled_ms + wait_ms);
    }
  }
  return first;
}

/* How wide each row is, so that whoever loads this can see that both mean the same. */
extern const int32_t aldea_row_bytes[];
const int32_t aldea_row_bytes[] = {
  (int32_t)sizeof(ProbeSpec),
  (int32_t)sizeof(DerivedSpec),
  (int32_t)sizeof(ConditionSpec),
  (int32_t)sizeof(LoadSpec),
  (int32_t)sizeof(RuleSpec),
  (int32_t)sizeof(LineSpec),
  (int32_t)sizeof(PatternSpec),
  (int32_t)sizeof(ExclusiveSpec),
  (int32_t)sizeof(InputSpec),
  (int32_t)sizeof(ButtonSpec),
  (int32_t)sizeof(SelectorSpec),
  (int32_t)sizeof(PositionSpec),
  (int32_t)sizeof(CodeSpec),
  (int32_t)sizeof(ActionSpec),
  (int32_t)sizeof(ModeSpec),
  (int32_t)sizeof(ModeChangeSpec),
  (int32_t)sizeof(GroupSpec),
  (int32_t)sizeof(DoorwaySpec),
  (int32_t)sizeof(BegunSpec),
  (int32_t)sizeof(FieldSpec),
  (int32_t)sizeof(PolicySpec),
  (int32_t)sizeof(ScheduleSpec),
  (int32_t)sizeof(SunSpec),
  (int32_t)sizeof(ResetSpec),
  (int32_t)sizeof(Level),
  (int32_t)sizeof(MessageRow),
  (int32_t)sizeof(ClockRow),
  (int32_t)sizeof(CutRow),
  (int32_t)sizeof(Head),
  (int32_t)sizeof(Cursor),
  (int32_t)sizeof(ProbeNow),
  (int32_t)sizeof(Quiet),
  (int32_t)sizeof(SignalNow),
  (int32_t)sizeof(RateNow),
  (int32_t)sizeof(ConditionNow),
  (int32_t)sizeof(LoadNow),
  (int32_t)sizeof(RuleNow),
  (int32_t)sizeof(LineNow),
  (int32_t)sizeof(InputNow),
  (int32_t)sizeof(ButtonNow),
  (int32_t)sizeof(SelectorNow),
  (int32_t)sizeof(ModeChangeNow),
  (int32_t)sizeof(DoorwayNow),
  (int32_t)sizeof(ScheduleNow),
  (int32_t)sizeof(MemoryNow),
  (int32_t)sizeof(SlotNow),
  (int32_t)sizeof(Counts),
  (int32_t)sizeof(EventRow),
  (int32_t)sizeof(LineRow),
  (int32_t)sizeof(WriteRow),
};

/* The way in: address and rows of every table, in the order of the groups above. */
void aldea_scan(const int64_t *tables, int64_t start_ms, int64_t end_ms,
    int64_t period_ms,
                int32_t running, int32_t goes_on, int32_t skipping);
void aldea_scan(const int64_t *tables, int64_t start_ms, int64_t end_ms,
    int64_t period_ms,
                int32_t running, int32_t goes_on, int32_t skipping) {
  RunTables run;
  run.plan.probes = (const ProbeSpec *)(uintptr_t)tables[0];
  run.plan.probes_rows = (int32_t)tables[1];
  run.plan.derived = (const DerivedSpec *)(uintptr_t)tables[2];
  run.plan.derived_rows = (int32_t)tables[3];
  run.plan.signal_members = (const int32_t *)(uintptr_t)tables[4];
  run.plan.signal_members_rows = (int32_t)tables[5];
  run.plan.rate_feeds = (const int32_t *)(uintptr_t)tables[6];
  run.plan.rate_feeds_rows = (int32_t)tables[7];
  run.plan.conditions = (const ConditionSpec *)(uintptr_t)tables[8];
  run.plan.conditions_rows = (int32_t)tables[9];
  run.plan.condition_members = (const int32_t *)(uintptr_t)tables[10];
  run.plan.condition_members_rows = (int32_t)tables[11];
  run.plan.loads = (const LoadSpec *)(uintptr_t)tables[12];
  run.plan.loads_rows = (int32_t)tables[13];
  run.plan.rules = (const RuleSpec *)(uintptr_t)tables[14];
  run.plan.rules_rows = (int32_t)tables[15];
  run.plan.lines = (const LineSpec *)(uintptr_t)tables[16];
  run.plan.lines_rows = (int32_t)tables[17];
  run.plan.combos = (const int8_t *)(uintptr_t)tables[18];
  run.plan.combos_rows = (int32_t)tables[19];
  run.plan.patterns = (const PatternSpec *)(uintptr_t)tables[20];
  run.plan.patterns_rows = (int32_t)tables[21];
  run.plan.parts_ms = (const int64_t *)(uintptr_t)tables[22];
  run.plan.parts_ms_rows = (int32_t)tables[23];
  run.plan.exclusive = (const ExclusiveSpec *)(uintptr_t)tables[24];
  run.plan.exclusive_rows = (int32_t)tables[25];
  run.plan.exclusive_lines = (const int16_t *)(uintptr_t)tables[26];
  run.plan.exclusive_lines_rows = (int32_t)tables[27];
  run.plan.inputs = (const InputSpec *)(uintptr_t)tables[28];
  run.plan.inputs_rows = (int32_t)tables[29];
  run.plan.buttons = (const ButtonSpec *)(uintptr_t)tables[30];
  run.plan.buttons_rows = (int32_t)tables[31];
  run.plan.selectors = (const SelectorSpec *)(uintptr_t)tables[32];
  run.plan.selectors_rows = (int32_t)tables[33];
  run.plan.positions = (const PositionSpec *)(uintptr_t)tables[34];
  run.plan.positions_rows = (int32_t)tables[35];
  run.plan.codes = (const CodeSpec *)(uintptr_t)tables[36];
  run.plan.codes_rows = (int32_t)tables[37];
  run.plan.actions = (const ActionSpec *)(uintptr_t)tables[38];
  run.plan.actions_rows = (int32_t)tables[39];
  run.plan.modes = (const ModeSpec *)(uintptr_t)tables[40];
  run.plan.modes_rows = (int32_t)tables[41];
  run.plan.mode_changes = (const ModeChangeSpec *)(uintptr_t)tables[42];
  run.plan.mode_changes_rows = (int32_t)tables[43];
  run.plan.groups = (const GroupSpec *)(uintptr_t)tables[44];
  run.plan.groups_rows = (int32_t)tables[45];
  run.plan.group_members = (const int16_t *)(uintptr_t)tables[46];
  run.plan.group_members_rows = (int32_t)tables[47];
  run.plan.doorways = (const DoorwaySpec *)(uintptr_t)tables[48];
  run.plan.doorways_rows = (int32_t)tables[49];
  run.plan.begun = (const BegunSpec *)(uintptr_t)tables[50];
  run.plan.begun_rows = (int32_t)tables[51];
  run.plan.fields = (const FieldSpec *)(uintptr_t)tables[52];
  run.plan.fields_rows = (int32_t)tables[53];
  run.plan.policy = (const PolicySpec *)(uintptr_t)tables[54];
  run.calendar.schedules = (const ScheduleSpec *)(uintptr_t)tables[56];
  run.calendar.schedules_rows = (int32_t)tables[57];
  run.calendar.span_from_ms = (const int64_t *)(uintptr_t)tables[58];
  run.calendar.span_from_ms_rows = (int32_t)tables[59];
  run.calendar.span_to_ms = (const int64_t *)(uintptr_t)tables[60];
  run.calendar.span_to_ms_rows = (int32_t)tables[61];
  run.calendar.moment_ms = (const int64_t *)(uintptr_t)tables[62];
  run.calendar.moment_ms_rows = (int32_t)tables[63];
  run.calendar.suns = (const SunSpec *)(uintptr_t)tables[64];
  run.calendar.suns_rows = (int32_t)tables[65];
  run.calendar.sun_ms = (const int64_t *)(uintptr_t)tables[66];
  run.calendar.sun_ms_rows = (int32_t)tables[67];
  run.calendar.sun_up = (const int8_t *)(uintptr_t)tables[68];
  run.calendar.sun_up_rows = (int32_t)tables[69];
  run.calendar.resets = (const ResetSpec *)(uintptr_t)tables[70];
  run.calendar.resets_rows = (int32_t)tables[71];
  run.calendar.reset_ms = (const int64_t *)(uintptr_t)tables[72];
  run.calendar.reset_ms_rows = (int32_t)tables[73];
  run.inputs.sample_ms = (const int64_t *)(uintptr_t)tables[74];
  run.inputs.sample_ms_rows = (int32_t)tables[75];
  run.inputs.sample_probe = (const int64_t *)(uintptr_t)tables[76];
  run.inputs.sample_probe_rows = (int32_t)tables[77];
  run.inputs.sample_value = (const double *)(uintptr_t)tables[78];
  run.inputs.sample_value_rows = (int32_t)tables[79];
  run.inputs.levels = (const Level *)(uintptr_t)tables[80];
  run.inputs.levels_rows = (int32_t)tables[81];
  run.inputs.messages = (const MessageRow *)(uintptr_t)tables[82];
  run.inputs.messages_rows = (int32_t)tables[83];
  run.inputs.clock = (const ClockRow *)(uintptr_t)tables[84];
  run.inputs.clock_rows = (int32_t)tables[85];
  run.inputs.cuts = (const CutRow *)(uintptr_t)tables[86];
  run.inputs.cuts_rows = (int32_t)tables[87];
  run.now.head = (Head *)(uintptr_t)tables[88];
  run.now.cursor = (Cursor *)(uintptr_t)tables[90];
  run.now.probes = (ProbeNow *)(uintptr_t)tables[92];
  run.now.probes_rows = (int32_t)tables[93];
  run.now.quiet = (Quiet *)(uintptr_t)tables[94];
  run.now.quiet_rows = (int32_t)tables[95];
  run.now.ring = (double *)(uintptr_t)tables[96];
  run.now.ring_rows = (int32_t)tables[97];
  run.now.scratch = (double *)(uintptr_t)tables[98];
  run.now.scratch_rows = (int32_t)tables[99];
  run.now.signals = (SignalNow *)(uintptr_t)tables[100];
  run.now.signals_rows = (int32_t)tables[101];
  run.now.rates = (RateNow *)(uintptr_t)tables[102];
  run.now.rates_rows = (int32_t)tables[103];
  run.now.rate_ms = (int64_t *)(uintptr_t)tables[104];
  run.now.rate_ms_rows = (int32_t)tables[105];
  run.now.rate_values = (double *)(uintptr_t)tables[106];
  run.now.rate_values_rows = (int32_t)tables[107];
  run.now.conditions = (ConditionNow *)(uintptr_t)tables[108];
  run.now.conditions_rows = (int32_t)tables[109];
  run.now.loads = (LoadNow *)(uintptr_t)tables[110];
  run.now.loads_rows = (int32_t)tables[111];
  run.now.rules = (RuleNow *)(uintptr_t)tables[112];
  run.now.rules_rows = (int32_t)tables[113];
  run.now.lines = (LineNow *)(uintptr_t)tables[114];
  run.now.lines_rows = (int32_t)tables[115];
  run.now.starts_ms = (int64_t *)(uintptr_t)tables[116];
  run.now.starts_ms_rows = (int32_t)tables[117];
  run.now.turns = (int8_t *)(uintptr_t)tables[118];
  run.now.turns_rows = (int32_t)tables[119];
  run.now.inputs = (InputNow *)(uintptr_t)tables[120];
  run.now.inputs_rows = (int32_t)tables[121];
  run.now.buttons = (ButtonNow *)(uintptr_t)tables[122];
  run.now.buttons_rows = (int32_t)tables[123];
  run.now.selectors = (SelectorNow *)(uintptr_t)tables[124];
  run.now.selectors_rows = (int32_t)tables[125];
  run.now.code_ms = (int64_t *)(uintptr_t)tables[126];
  run.now.code_ms_rows = (int32_t)tables[127];
  run.now.modes = (int16_t *)(uintptr_t)tables[128];
  run.now.modes_rows = (int32_t)tables[129];
  run.now.mode_changes = (ModeChangeNow *)(uintptr_t)tables[130];
  run.now.mode_changes_rows = (int32_t)tables[131];
  run.now.doorways = (DoorwayNow *)(uintptr_t)tables[132];
  run.now.doorways_rows = (int32_t)tables[133];
  run.now.schedules = (ScheduleNow *)(uintptr_t)tables[134];
  run.now.schedules_rows = (int32_t)tables[135];
  run.now.begun_ms = (int64_t *)(uintptr_t)tables[136];
  run.now.begun_ms_rows = (int32_t)tables[137];
  run.now.memory = (MemoryNow *)(uintptr_t)tables[138];
  run.now.slots = (SlotNow *)(uintptr_t)tables[140];
  run.now.slots_rows = (int32_t)tables[141];
  run.now.slot_cells = (int64_t *)(uintptr_t)tables[142];
  run.now.slot_cells_rows = (int32_t)tables[143];
  run.now.before = (int64_t *)(uintptr_t)tables[144];
  run.now.before_rows = (int32_t)tables[145];
  run.now.cells = (int64_t *)(uintptr_t)tables[146];
  run.now.cells_rows = (int32_t)tables[147];
  run.now.base = (int64_t *)(uintptr_t)tables[148];
  run.now.base_rows = (int32_t)tables[149];
  run.now.snapshot = (int64_t *)(uintptr_t)tables[150];
  run.now.snapshot_rows = (int32_t)tables[151];
  run.out.counts = (Counts *)(uintptr_t)tables[152];
  run.out.events = (EventRow *)(uintptr_t)tables[154];
  run.out.events_rows = (int32_t)tables[155];
  run.out.lines = (LineRow *)(uintptr_t)tables[156];
  run.out.lines_rows = (int32_t)tables[157];
  run.out.writes = (WriteRow *)(uintptr_t)tables[158];
  run.out.writes_rows = (int32_t)tables[159];
  run.out.cells = (int64_t *)(uintptr_t)tables[160];
  run.out.cells_rows = (int32_t)tables[161];
  run.out.trace = (double *)(uintptr_t)tables[162];
  run.out.trace_rows = (int32_t)tables[163];
  run.out.qualities = (int8_t *)(uintptr_t)tables[164];
  run.out.qualities_rows = (int32_t)tables[165];
  scan_loop(&run, start_ms, end_ms, period_ms, running != 0, goes_on != 0, skipping != 0);
}
