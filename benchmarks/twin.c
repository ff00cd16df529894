/* The plain C twin of core/engine/scan: the same scan and the same replay over the same arrays.
   Written by override from ENGINE.md, to measure against and to agree with, event for event. */
#include <math.h>
#include <stdint.h>

typedef int64_t i64;
#define NEVER (-((i64)1 << 61))
#define FOREVER ((i64)1 << 61)
enum { P_SLOPE, P_INTERCEPT, P_LOW, P_HIGH, P_TAU_S, P_STUCK_BAND, P_FLOATS };
enum { P_STALE_MS, P_STUCK_MS, P_GOOD_RUN, P_INTS };
enum { C_ON, C_OFF, C_FLOATS };
enum { C_PROBE, C_RISING, C_DELAY_ON_MS, C_DELAY_OFF_MS, C_INTS };
enum { K_LOAD, K_PRIORITY, K_WANT, K_CONDITION, K_PROBE, K_AFTER_MS, K_INTS };
enum { L_FIRST, L_END, L_MIN_ON_MS, L_MIN_OFF_MS, L_POLICY, L_RETURN_DELAY_MS, L_INTS };
enum { S_FILTERED, S_VALUE, S_ANCHOR, S_FLOATS };
enum { S_LAST_MS, S_GOOD_MS, S_QUALITY, S_RUN, S_ANCHOR_MS, S_SEEN, S_ENTERED_MS, S_INTS };
enum { B_RAW, B_SINCE_MS, B_OUT, B_LET_GO, B_LOCKED, B_INTS };
enum { O_STATE, O_CHANGED_MS, O_DECIDER, O_HOLD, O_BOOT_UNTIL_MS, O_ASKED, O_CITED, O_INTS };
enum { GOOD, RANGE, STUCK, STALE, WARMING };
enum { HOLD_NONE, HOLD_MIN_ON, HOLD_MIN_OFF, HOLD_RETURN_DELAY, HOLD_RETURN_OFF };
enum { POLICY_OFF, POLICY_FOLLOW_RULES, POLICY_LAST };
enum { PRIORITY_FAULT = 3, PRIORITY_DEMAND = 6, E_INTS = 8 };

typedef struct {
  const double *restrict pf; const i64 *restrict pi; const double *restrict cf;
  const i64 *restrict ci; const i64 *restrict ki; const i64 *restrict li;
  i64 np, nc, nk, nl;
  double *restrict sf; i64 *restrict si; i64 *restrict bi; i64 *restrict oi;
  double *restrict quiet;
  i64 *restrict ev; double *restrict ev_value; i64 room, n;
} Machine;

#define PF(f) m->pf[p * P_FLOATS + f]
#define PI(f) m->pi[p * P_INTS + f]
#define SF(f) m->sf[p * S_FLOATS + f]
#define SI(f) m->si[p * S_INTS + f]
#define CF(f) m->cf[c * C_FLOATS + f]
#define CI(f) m->ci[c * C_INTS + f]
#define BI(f) m->bi[c * B_INTS + f]
#define KI(f) m->ki[k * K_INTS + f]
#define LI(f) m->li[l * L_INTS + f]
#define OI(f) m->oi[l * O_INTS + f]

static inline void take_sample(Machine *m, i64 p, i64 t, double raw) {
  if (isnan(raw)) return;
  if (t - SI(S_LAST_MS) >= PI(P_STALE_MS)) SF(S_ANCHOR) = NAN;
  SI(S_LAST_MS) = t;
  if (raw < PF(P_LOW) || raw > PF(P_HIGH)) {
    SI(S_QUALITY) = RANGE; SI(S_RUN) = 0; SF(S_ANCHOR) = NAN; return;
  }
  if (!(fabs(raw - SF(S_ANCHOR)) <= PF(P_STUCK_BAND))) { SF(S_ANCHOR) = raw; SI(S_ANCHOR_MS) = t; }
  double filtered = SF(S_FILTERED), tau = PF(P_TAU_S);
  if (tau > 0 && !isnan(filtered)) {
    double dt = (double)(t - SI(S_ENTERED_MS)) * 0.001;
    filtered += (1.0 - exp(-dt / tau)) * (raw - filtered);
  } else filtered = raw;
  SI(S_ENTERED_MS) = t;
  SF(S_FILTERED) = filtered;
  SF(S_VALUE) = PF(P_INTERCEPT) + PF(P_SLOPE) * filtered;
  if (PI(P_STUCK_MS) > 0 && t - SI(S_ANCHOR_MS) >= PI(P_STUCK_MS)) {
    SI(S_QUALITY) = STUCK; SI(S_RUN) = 0; return;
  }
  SI(S_RUN) += 1;
  if (SI(S_QUALITY) != GOOD && SI(S_RUN) >= PI(P_GOOD_RUN)) SI(S_QUALITY) = GOOD;
  if (SI(S_QUALITY) == GOOD) SI(S_GOOD_MS) = t;
}

static void put(Machine *m, i64 t, i64 kind, i64 who, i64 was, i64 now, i64 rule, i64 hold,
                i64 cited, double value) {
  if (m->n < m->room) {
    i64 *e = m->ev + m->n * E_INTS;
    e[0] = t; e[1] = kind; e[2] = who; e[3] = was; e[4] = now; e[5] = rule; e[6] = hold; e[7] = cited;
    m->ev_value[m->n] = value;
  }
  m->n++;
}

static void scan(Machine *m, i64 t) {
  for (i64 p = 0; p < m->np; p++) {
    if (SI(S_QUALITY) != STALE && t - SI(S_LAST_MS) >= PI(P_STALE_MS)) {
      SI(S_QUALITY) = STALE; SI(S_RUN) = 0;
    }
    if (SI(S_QUALITY) != SI(S_SEEN)) {
      put(m, t, 1, p, SI(S_SEEN), SI(S_QUALITY), 0, 0, -1, SF(S_VALUE));
      SI(S_SEEN) = SI(S_QUALITY);
    }
  }
  for (i64 c = 0; c < m->nc; c++) {
    i64 p = CI(C_PROBE);
    if (SI(S_QUALITY) != GOOD) { BI(B_SINCE_MS) = FOREVER; continue; }
    double v = SF(S_VALUE);
    int on = CI(C_RISING) == 1 ? v >= CF(C_ON) : v <= CF(C_ON);
    int off = CI(C_RISING) == 1 ? v <= CF(C_OFF) : v >= CF(C_OFF);
    i64 raw = on ? 1 : off ? 0 : BI(B_RAW);
    if (raw != BI(B_RAW) || BI(B_SINCE_MS) == FOREVER) { BI(B_RAW) = raw; BI(B_SINCE_MS) = t; }
    if (raw != BI(B_OUT)) {
      i64 delay = raw == 1 ? CI(C_DELAY_ON_MS) : CI(C_DELAY_OFF_MS);
      if (t - BI(B_SINCE_MS) >= delay) BI(B_OUT) = raw;
    }
    if (BI(B_LOCKED) == 1) {
      if (raw == 1) BI(B_LET_GO) = 0;
      else if (off) BI(B_LET_GO) = 1;
      if (BI(B_LET_GO) == 1 && BI(B_OUT) == 0) BI(B_LOCKED) = 0;
    }
  }
  for (i64 l = 0; l < m->nl; l++) {
    i64 rest = LI(L_END) - 1, unheard = -1, c, k;
    for (k = LI(L_FIRST); k < rest; k++) {
      int active;
      if ((c = KI(K_CONDITION)) < 0) {
        i64 p = KI(K_PROBE);
        active = SI(S_QUALITY) != GOOD && t - SI(S_GOOD_MS) >= KI(K_AFTER_MS);
      } else if (BI(B_LOCKED) == 1) {
        active = 0;
        if (unheard < 0) unheard = k;
      } else active = BI(B_OUT) == 1;
      if (active) break;
    }
    i64 want = KI(K_WANT), state = OI(O_STATE), hold = HOLD_NONE, cited = k;
    if (k == rest) cited = unheard >= 0 ? unheard : OI(O_ASKED);
    else if (KI(K_PRIORITY) == PRIORITY_DEMAND) OI(O_ASKED) = k;
    if (want != state) {
      i64 since = t - OI(O_CHANGED_MS);
      if (want == 0) {
        if (since < LI(L_MIN_ON_MS) && KI(K_PRIORITY) > PRIORITY_FAULT) hold = HOLD_MIN_ON;
      } else if (since < LI(L_MIN_OFF_MS)) hold = HOLD_MIN_OFF;
      else if (t < OI(O_BOOT_UNTIL_MS)) hold = HOLD_RETURN_DELAY;
    }
    if (hold == HOLD_NONE && k == rest && unheard >= 0) hold = HOLD_RETURN_OFF;
    i64 now = hold != HOLD_NONE && hold != HOLD_RETURN_OFF ? state : want;
    if (now != state || k != OI(O_DECIDER) || hold != OI(O_HOLD) || cited != OI(O_CITED)) {
      double value = NAN;
      if (cited >= 0) value = m->sf[m->ki[cited * K_INTS + K_PROBE] * S_FLOATS + S_VALUE];
      put(m, t, 0, l, state, now, k, hold, cited, value);
      OI(O_DECIDER) = k; OI(O_HOLD) = hold; OI(O_CITED) = cited;
      if (now != state) { OI(O_STATE) = now; OI(O_CHANGED_MS) = t; }
    }
  }
}

static void boot(Machine *m, i64 t, int first_start) {
  for (i64 p = 0; p < m->np; p++) {
    SF(S_FILTERED) = SF(S_VALUE) = SF(S_ANCHOR) = NAN;
    SI(S_LAST_MS) = SI(S_GOOD_MS) = SI(S_ANCHOR_MS) = SI(S_ENTERED_MS) = t;
    SI(S_QUALITY) = SI(S_SEEN) = WARMING; SI(S_RUN) = 0;
  }
  for (i64 l = 0; l < m->nl; l++) {
    int keeps = LI(L_POLICY) == POLICY_LAST && !first_start;
    OI(O_ASKED) = -1;
    for (i64 k = LI(L_FIRST); k < LI(L_END); k++) {
      i64 c = KI(K_CONDITION);
      if (c < 0) continue;
      if (OI(O_ASKED) < 0) OI(O_ASKED) = k;
      if (keeps) BI(B_RAW) = BI(B_OUT); else BI(B_RAW) = BI(B_OUT) = 0;
      BI(B_SINCE_MS) = t; BI(B_LET_GO) = 0;
      BI(B_LOCKED) = LI(L_POLICY) == POLICY_OFF && !first_start;
    }
    OI(O_STATE) = 0; OI(O_CHANGED_MS) = first_start ? NEVER : t;
    OI(O_DECIDER) = -2; OI(O_HOLD) = HOLD_NONE;
    OI(O_BOOT_UNTIL_MS) = first_start ? t : t + LI(L_RETURN_DELAY_MS);
    OI(O_CITED) = -2;
  }
}

static i64 earlier(i64 first, i64 t, i64 at) { return t < at && at < first ? at : first; }

static i64 next_stale(Machine *m) {
  i64 first = FOREVER;
  for (i64 p = 0; p < m->np; p++)
    if (SI(S_QUALITY) != STALE && SI(S_LAST_MS) + PI(P_STALE_MS) < first)
      first = SI(S_LAST_MS) + PI(P_STALE_MS);
  return first;
}

static i64 next_timer(Machine *m, i64 t) {
  i64 first = FOREVER;
  for (i64 k = 0; k < m->nk; k++)
    if (KI(K_PRIORITY) == PRIORITY_FAULT) {
      i64 p = KI(K_PROBE);
      if (SI(S_QUALITY) != GOOD) first = earlier(first, t, SI(S_GOOD_MS) + KI(K_AFTER_MS));
    }
  for (i64 c = 0; c < m->nc; c++)
    if (BI(B_RAW) != BI(B_OUT))
      first = earlier(first, t,
                      BI(B_SINCE_MS) + (BI(B_RAW) == 1 ? CI(C_DELAY_ON_MS) : CI(C_DELAY_OFF_MS)));
  for (i64 l = 0; l < m->nl; l++) {
    if (OI(O_HOLD) == HOLD_MIN_ON) first = earlier(first, t, OI(O_CHANGED_MS) + LI(L_MIN_ON_MS));
    else if (OI(O_HOLD) == HOLD_MIN_OFF)
      first = earlier(first, t, OI(O_CHANGED_MS) + LI(L_MIN_OFF_MS));
    else if (OI(O_HOLD) == HOLD_RETURN_DELAY) first = earlier(first, t, OI(O_BOOT_UNTIL_MS));
  }
  return first;
}

static void quiet_bounds(Machine *m) {
  for (i64 p = 0; p < m->np; p++) { m->quiet[2 * p] = -INFINITY; m->quiet[2 * p + 1] = INFINITY; }
  for (i64 c = 0; c < m->nc; c++) {
    double *q = m->quiet + 2 * CI(C_PROBE);
    int rising = CI(C_RISING) == 1;
    if (BI(B_RAW) == 0) {
      if (rising) q[1] = fmin(q[1], CF(C_ON)); else q[0] = fmax(q[0], CF(C_ON));
    }
    if (BI(B_RAW) == 1 || BI(B_LOCKED) == 1) {
      if (rising) q[0] = fmax(q[0], CF(C_OFF)); else q[1] = fmin(q[1], CF(C_OFF));
    }
  }
}

static int stirs(Machine *m, i64 p) {
  if (SI(S_QUALITY) != SI(S_SEEN)) return 1;
  return SI(S_QUALITY) == GOOD &&
         !(m->quiet[2 * p] < SF(S_VALUE) && SF(S_VALUE) < m->quiet[2 * p + 1]);
}

i64 replay(const double *pf, const i64 *pi, const double *cf, const i64 *ci, const i64 *ki,
           const i64 *li, i64 np, i64 nc, i64 nk, i64 nl, double *sf, i64 *si, i64 *bi, i64 *oi,
           double *quiet, const i64 *sample_ms, const i64 *sample_probe, const double *sample_value,
           i64 samples, const i64 *cuts, i64 ncuts, i64 start, i64 end, i64 period, int skipping,
           i64 *ev, double *ev_value, i64 room) {
  Machine machine = {pf, pi, cf, ci, ki, li, np, nc, nk, nl, sf, si, bi, oi, quiet,
                     ev, ev_value, room, 0}, *m = &machine;
  i64 i = 0, cut = 0, t = start;
  int dark = 0;
#define TICK(x) (start + (((x) - start + period - 1) / period) * period)
  boot(m, start, 1);
  while (t < end) {
    int powered = 1;
    while (cut < ncuts && t >= cuts[2 * cut]) {
      i64 from = cuts[2 * cut], to = cuts[2 * cut + 1];
      if (!dark) {
        dark = 1;
        if (from < start) from = start;
        put(m, from, 2, 0, 1, 0, -1, 0, -1, NAN);
        for (i64 l = 0; l < nl; l++) put(m, from, 0, l, OI(O_STATE), 0, -1, 0, -1, NAN);
      }
      if (t < to) { powered = 0; break; }
      dark = 0; cut++;
      put(m, to, 2, 0, 0, 1, -1, 0, -1, NAN);
      boot(m, to, 0);
      while (i < samples && sample_ms[i] < to) i++;
    }
    if (!powered) { t = TICK(cuts[2 * cut + 1]); continue; }
    for (; i < samples && sample_ms[i] <= t; i++)
      take_sample(m, sample_probe[i], sample_ms[i], sample_value[i]);
    scan(m, t);
    if (!skipping) { t += period; continue; }
    quiet_bounds(m);
    i64 timer = next_timer(m, t), stale = next_stale(m), at;
    if (end < timer) timer = end;
    if (cut < ncuts && cuts[2 * cut] < timer) timer = cuts[2 * cut];
    for (;;) {
      at = stale < timer ? stale : timer;
      int stirred = 0;
      for (; i < samples && sample_ms[i] <= at - period && !stirred; i++) {
        take_sample(m, sample_probe[i], sample_ms[i], sample_value[i]);
        stirred = stirs(m, sample_probe[i]);
      }
      if (stirred) { at = sample_ms[i - 1]; break; }
      if (at < timer && (stale = next_stale(m)) > at) continue;
      if (i < samples && sample_ms[i] < at) at = sample_ms[i];
      break;
    }
    at = TICK(at);
    t = at > t + period ? at : t + period;
  }
  return m->n;
}
