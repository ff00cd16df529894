/* The plain C twin of core/engine/scan.py: the same scan and the same replay over the same arrays.
   Written by hand from ENGINE.md, to measure against and to agree with, event for event. */
#include <math.h>
#include <stdint.h>

typedef int64_t i64;
#define NEVER (-((i64)1 << 61))
#define FOREVER ((i64)1 << 61)
enum { P_SLOPE, P_INTERCEPT, P_LOW, P_HIGH, P_TAU_S, P_STUCK_BAND, P_FLOATS };
enum { P_STALE_MS, P_STUCK_MS, P_GOOD_RUN, P_INTS };
enum { C_ON, C_OFF, C_FLOATS };
enum { C_PROBE, C_RISING, C_DELAY_ON_MS, C_DELAY_OFF_MS, C_INTS };
enum { K_LOAD, K_RANK, K_WANT, K_CONDITION, K_PROBE, K_AFTER_MS, K_INTS };
enum { L_FIRST, L_END, L_MIN_ON_MS, L_MIN_OFF_MS, L_POLICY, L_RETURN_DELAY_MS, L_INTS };
enum { S_FILTERED, S_VALUE, S_ANCHOR, S_FLOATS };
enum { S_LAST_MS, S_GOOD_MS, S_QUALITY, S_RUN, S_ANCHOR_MS, S_SEEN, S_INTS };
enum { B_RAW, B_SINCE_MS, B_OUT, B_ASKS_OFF, B_INTS };
enum { O_STATE, O_CHANGED_MS, O_DECIDER, O_HOLD, O_BOOT_UNTIL_MS, O_LOCKED, O_INTS };
enum { GOOD, RANGE, STUCK, STALE, WARMING };
enum { HOLD_NONE, HOLD_MIN_ON, HOLD_MIN_OFF, HOLD_RETURN_DELAY };
enum { POLICY_OFF, POLICY_DECIDE, POLICY_LAST };
enum { RANK_FAULT = 3, RANK_DEMAND = 6, E_INTS = 7 };

typedef struct {
  const double *pf; const i64 *pi; const double *cf; const i64 *ci; const i64 *ki; const i64 *li;
  i64 np, nc, nk, nl;
  double *sf; i64 *si; i64 *bi; i64 *oi; double *quiet;
  i64 *ev; double *ev_value; i64 room, n;
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

static void take_sample(Machine *m, i64 p, i64 t, double raw) {
  if (isnan(raw)) return;
  double dt = (double)(t - SI(S_LAST_MS)) * 0.001;
  SI(S_LAST_MS) = t;
  if (raw < PF(P_LOW) || raw > PF(P_HIGH)) { SI(S_QUALITY) = RANGE; SI(S_RUN) = 0; return; }
  if (!(fabs(raw - SF(S_ANCHOR)) <= PF(P_STUCK_BAND))) { SF(S_ANCHOR) = raw; SI(S_ANCHOR_MS) = t; }
  double filtered = SF(S_FILTERED), tau = PF(P_TAU_S);
  if (tau > 0 && !isnan(filtered)) filtered += (1.0 - exp(-dt / tau)) * (raw - filtered);
  else filtered = raw;
  SF(S_FILTERED) = filtered;
  SF(S_VALUE) = PF(P_INTERCEPT) + PF(P_SLOPE) * filtered;
  if (PI(P_STUCK_MS) > 0 && t - SI(S_ANCHOR_MS) >= PI(P_STUCK_MS)) {
    SI(S_QUALITY) = STUCK; SI(S_RUN) = 0; return;
  }
  SI(S_RUN) += 1;
  if (SI(S_QUALITY) != GOOD && SI(S_RUN) >= PI(P_GOOD_RUN)) SI(S_QUALITY) = GOOD;
  if (SI(S_QUALITY) == GOOD) SI(S_GOOD_MS) = t;
}

static void put(Machine *m, i64 t, i64 kind, i64 who, i64 was, i64 now, i64 claim, i64 hold,
                double value) {
  if (m->n < m->room) {
    i64 *e = m->ev + m->n * E_INTS;
    e[0] = t; e[1] = kind; e[2] = who; e[3] = was; e[4] = now; e[5] = claim; e[6] = hold;
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
      put(m, t, 1, p, SI(S_SEEN), SI(S_QUALITY), 0, 0, SF(S_VALUE));
      SI(S_SEEN) = SI(S_QUALITY);
    }
  }
  for (i64 c = 0; c < m->nc; c++) {
    i64 p = CI(C_PROBE);
    BI(B_ASKS_OFF) = 0;
    if (SI(S_QUALITY) == GOOD) {
      double v = SF(S_VALUE);
      int on = CI(C_RISING) == 1 ? v >= CF(C_ON) : v <= CF(C_ON);
      int off = CI(C_RISING) == 1 ? v <= CF(C_OFF) : v >= CF(C_OFF);
      if (on && BI(B_RAW) == 0) { BI(B_RAW) = 1; BI(B_SINCE_MS) = t; }
      else if (off) {
        BI(B_ASKS_OFF) = 1;
        if (BI(B_RAW) == 1) { BI(B_RAW) = 0; BI(B_SINCE_MS) = t; }
      }
    }
    if (BI(B_RAW) != BI(B_OUT)) {
      i64 delay = BI(B_RAW) == 1 ? CI(C_DELAY_ON_MS) : CI(C_DELAY_OFF_MS);
      if (t - BI(B_SINCE_MS) >= delay) BI(B_OUT) = BI(B_RAW);
    }
  }
  for (i64 l = 0; l < m->nl; l++) {
    i64 first = LI(L_FIRST), end = LI(L_END), k;
    if (OI(O_LOCKED) == 1)
      for (k = first; k < end; k++)
        if (KI(K_RANK) == RANK_DEMAND && m->bi[KI(K_CONDITION) * B_INTS + B_ASKS_OFF] == 1)
          OI(O_LOCKED) = 0;
    for (k = first; k < end - 1; k++) {
      int active;
      if (KI(K_RANK) == RANK_FAULT) {
        i64 p = KI(K_PROBE);
        active = SI(S_QUALITY) != GOOD && t - SI(S_GOOD_MS) >= KI(K_AFTER_MS);
      } else active = m->bi[KI(K_CONDITION) * B_INTS + B_OUT] == 1 && OI(O_LOCKED) == 0;
      if (active) break;
    }
    i64 want = KI(K_WANT), state = OI(O_STATE), hold = HOLD_NONE;
    if (want != state) {
      i64 since = t - OI(O_CHANGED_MS);
      if (want == 0) {
        if (since < LI(L_MIN_ON_MS) && KI(K_RANK) > RANK_FAULT) hold = HOLD_MIN_ON;
      } else if (since < LI(L_MIN_OFF_MS)) hold = HOLD_MIN_OFF;
      else if (t < OI(O_BOOT_UNTIL_MS)) hold = HOLD_RETURN_DELAY;
    }
    i64 now = hold != HOLD_NONE ? state : want;
    if (now != state || k != OI(O_DECIDER) || hold != OI(O_HOLD)) {
      i64 p = KI(K_PROBE);
      put(m, t, 0, l, state, now, k, hold, p >= 0 ? SF(S_VALUE) : NAN);
      OI(O_DECIDER) = k; OI(O_HOLD) = hold;
      if (now != state) { OI(O_STATE) = now; OI(O_CHANGED_MS) = t; }
    }
  }
}

static void boot(Machine *m, i64 t, int first_start) {
  for (i64 p = 0; p < m->np; p++) {
    SF(S_FILTERED) = SF(S_VALUE) = SF(S_ANCHOR) = NAN;
    SI(S_LAST_MS) = SI(S_GOOD_MS) = SI(S_ANCHOR_MS) = t;
    SI(S_QUALITY) = SI(S_SEEN) = WARMING; SI(S_RUN) = 0;
  }
  for (i64 l = 0; l < m->nl; l++) {
    int keeps = LI(L_POLICY) == POLICY_LAST && !first_start;
    for (i64 k = LI(L_FIRST); k < LI(L_END); k++) {
      i64 c = KI(K_CONDITION);
      if (c < 0) continue;
      if (keeps) BI(B_RAW) = BI(B_OUT); else BI(B_RAW) = BI(B_OUT) = 0;
      BI(B_SINCE_MS) = t; BI(B_ASKS_OFF) = 0;
    }
    OI(O_STATE) = 0; OI(O_CHANGED_MS) = first_start ? NEVER : t;
    OI(O_DECIDER) = -2; OI(O_HOLD) = HOLD_NONE;
    OI(O_BOOT_UNTIL_MS) = first_start ? t : t + LI(L_RETURN_DELAY_MS);
    OI(O_LOCKED) = LI(L_POLICY) == POLICY_OFF && !first_start;
  }
}

static i64 earlier(i64 first, i64 t, i64 at) { return t < at && at < first ? at : first; }

static i64 next_deadline(Machine *m, i64 t) {
  i64 first = FOREVER;
  for (i64 p = 0; p < m->np; p++)
    if (SI(S_QUALITY) != STALE) first = earlier(first, t, SI(S_LAST_MS) + PI(P_STALE_MS));
  for (i64 k = 0; k < m->nk; k++)
    if (KI(K_RANK) == RANK_FAULT) {
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
  int locked = 0;
  for (i64 l = 0; l < m->nl; l++) locked |= OI(O_LOCKED) == 1;
  for (i64 p = 0; p < m->np; p++) { m->quiet[2 * p] = -INFINITY; m->quiet[2 * p + 1] = INFINITY; }
  for (i64 c = 0; c < m->nc; c++) {
    double *q = m->quiet + 2 * CI(C_PROBE);
    int rising = CI(C_RISING) == 1;
    if (BI(B_RAW) == 0 || locked) {
      if (rising) q[1] = fmin(q[1], CF(C_ON)); else q[0] = fmax(q[0], CF(C_ON));
    }
    if (BI(B_RAW) == 1 || locked) {
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
  int powered = 1;
#define TICK(x) (start + (((x) - start + period - 1) / period) * period)
  boot(m, start, 1);
  while (t < end) {
    if (powered && cut < ncuts && t >= cuts[2 * cut]) {
      powered = 0;
      put(m, t, 2, 0, 1, 0, -1, 0, NAN);
      for (i64 l = 0; l < nl; l++) put(m, t, 0, l, OI(O_STATE), 0, -1, 0, NAN);
    }
    if (!powered && t >= cuts[2 * cut + 1]) {
      powered = 1; cut++;
      put(m, t, 2, 0, 0, 1, -1, 0, NAN);
      boot(m, t, 0);
      while (i < samples && sample_ms[i] < t) i++;
    }
    if (!powered) { t = TICK(cuts[2 * cut + 1]); continue; }
    for (; i < samples && sample_ms[i] <= t; i++)
      take_sample(m, sample_probe[i], sample_ms[i], sample_value[i]);
    scan(m, t);
    if (!skipping) { t += period; continue; }
    quiet_bounds(m);
    i64 deadline = next_deadline(m, t);
    if (cut < ncuts && cuts[2 * cut] < deadline) deadline = cuts[2 * cut];
    for (;;) {
      int moved = 0;
      for (; i < samples; ) {
        i64 at = sample_ms[i], p = sample_probe[i];
        if (at + period > deadline || at + period > end) break;
        if (i + 1 < samples && sample_ms[i + 1] - at < period) break;
        take_sample(m, p, at, sample_value[i++]);
        if (stirs(m, p)) { t = TICK(at); moved = 1; break; }
      }
      if (moved) break;
      i64 tick = i < samples ? TICK(sample_ms[i]) : FOREVER;
      if (tick >= deadline || i >= samples) {
        i64 later = next_deadline(m, t);
        if (cut < ncuts && cuts[2 * cut] < later) later = cuts[2 * cut];
        if (later > deadline && i < samples) { deadline = later; continue; }
        if (later < FOREVER) later = TICK(later);
        i64 to = tick < later ? tick : later;
        t = to > t + period ? to : t + period;
        break;
      }
      t = tick; /* samples that share a tick, or the end: a whole scan */
      break;
    }
  }
  return m->n;
}
