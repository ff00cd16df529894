// What the timeline's data says: the row at an instant, the changes of a lane, the next span.

export const HOUR = 3600000;

// The row of a lane that an instant lies in; null before the first.
export function rowAt(rows, t) {
  let low = 0, high = rows.length - 1, found = null;
  while (low <= high) {
    const middle = (low + high) >> 1;
    if (rows[middle].s <= t) { found = rows[middle]; low = middle + 1; } else high = middle - 1;
  }
  return found;
}

// The instant of the next change of state after `at`, or of the last one before it.
export function changeFrom(rows, at, direction) {
  const edges = rows.filter((row, i) => i > 0 && row.on !== rows[i - 1].on).map((row) => row.s);
  return direction > 0 ? edges.find((t) => t > at) : edges.reverse().find((t) => t < at);
}

// A longer or shorter span of the list around `at`, and where it ends; null at the end of the list.
export function otherSpan(timeline, at, step) {
  const hours = (timeline.end - timeline.start) / HOUR;
  let index = timeline.spans.findIndex((h) => h >= hours - 0.01);
  if (index < 0) index = timeline.spans.length - 1;
  const next = timeline.spans[Math.min(Math.max(index + step, 0), timeline.spans.length - 1)];
  if (next === timeline.spans[index] && Math.abs(next - hours) < 0.01) return null;
  return { hours: next, end: Math.min(timeline.now, Math.max(at + (next * HOUR) / 2, timeline.start)) };
}

// The house's clock by the server's own offsets, so that a browser with other tables agrees with it.
export const clockOf = (offsets) => {
  const format = new Intl.DateTimeFormat("en-GB", {
    timeZone: "UTC", weekday: "short", day: "numeric", month: "short", year: "numeric",
    hour: "2-digit", minute: "2-digit",
  });
  return (t) => {
    const [, minutes] = offsets.findLast(([from]) => from <= t) ?? offsets[0];
    return format.format(t + minutes * 60000).replace(/,/g, "");
  };
};
