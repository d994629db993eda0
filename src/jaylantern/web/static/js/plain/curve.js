// Pure: reading a gain curve for drawing. The rules that make it live on the server.

/** @typedef {{time_n: number[], gain_db: number[], ramp?: number[], pins?: number[][]}} Curve */

const BENT_PARTS = 16; // straight pieces a bent ramp is drawn in

/** Index of the first value greater than x in an ascending array. */
export function upper(values, x) {
  let low = 0;
  let high = values.length;
  while (low < high) {
    const middle = (low + high) >> 1;
    if (values[middle] <= x) low = middle + 1;
    else high = middle;
  }
  return low;
}

/** The courses of ramps by their codes: gain in dB at a share of the way from one gain to another. */
const COURSES = [
  (from, to, share) => from + (to - from) * share, // straight in dB
  (from, to, share) => 20 * Math.log10(Math.max(10 ** (from / 20) + (10 ** (to / 20) - 10 ** (from / 20)) * share, 1e-9)), // in amplitude
  (from, to, share) => from + (to - from) * (0.5 - 0.5 * Math.cos(Math.PI * share)), // eased
];

/** Gain on the ramp behind point i, at a share of its length. */
const onRamp = (curve, i, share) => COURSES[curve.ramp?.[i] ?? 0](curve.gain_db[i], curve.gain_db[i + 1], share);

/** Gain in dB at a time. @param {Curve} curve */
export function gainAt(curve, time_n) {
  const i = upper(curve.time_n, time_n);
  if (i === 0) return curve.gain_db[0];
  if (i === curve.time_n.length) return curve.gain_db[i - 1];
  return onRamp(curve, i - 1, (time_n - curve.time_n[i - 1]) / (curve.time_n[i] - curve.time_n[i - 1]));
}

/** The curve within [start_n, stop_n] as [time, dB] pairs for drawing, with one at each end; bent ramps in pieces. */
export function pointsWithin(curve, start_n, stop_n) {
  const points = [[start_n, gainAt(curve, start_n)]];
  const bend = (i) => {
    const [from, to] = [curve.time_n[i], curve.time_n[i + 1]];
    for (let k = 1; k < BENT_PARTS; k += 1) {
      const time_n = from + ((to - from) * k) / BENT_PARTS;
      if (time_n > start_n && time_n < stop_n) points.push([time_n, onRamp(curve, i, k / BENT_PARTS)]);
    }
  };
  const first = upper(curve.time_n, start_n);
  if (first > 0 && curve.ramp?.[first - 1]) bend(first - 1);
  for (let i = first; i < curve.time_n.length && curve.time_n[i] < stop_n; i += 1) {
    points.push([curve.time_n[i], curve.gain_db[i]]);
    if (curve.ramp?.[i]) bend(i);
  }
  points.push([stop_n, gainAt(curve, stop_n)]);
  return points;
}

/** How many points of the curve lie in [start_n, stop_n). */
export const countWithin = (curve, start_n, stop_n) => upper(curve.time_n, stop_n) - upper(curve.time_n, start_n);

/**
 * The highest, the lowest and the middle gain of every column of a picture, in dB: for a curve with more points than
 * there are columns. Between points the curve is taken as straight.
 */
export function columnsWithin(curve, start_n, n_per_px, count) {
  const [high, low, mean] = [0, 1, 2].map(() => new Float32Array(count));
  let i = upper(curve.time_n, start_n);
  let at = gainAt(curve, start_n);
  for (let k = 0; k < count; k += 1) {
    const end_n = start_n + (k + 1) * n_per_px;
    let [most, least, sum, from_n] = [at, at, 0, start_n + k * n_per_px];
    for (; i < curve.time_n.length && curve.time_n[i] < end_n; i += 1) {
      const gain = curve.gain_db[i];
      sum += ((at + gain) / 2) * (curve.time_n[i] - from_n);
      [at, from_n] = [gain, curve.time_n[i]];
      if (gain > most) most = gain;
      if (gain < least) least = gain;
    }
    const after = gainAt(curve, end_n);
    sum += ((at + after) / 2) * (end_n - from_n);
    at = after;
    [high[k], low[k], mean[k]] = [Math.max(most, after), Math.min(least, after), sum / n_per_px];
  }
  return { high, low, mean };
}

const depths = new WeakMap();

/** The lowest gain the curve reaches. */
export function deepest(curve) {
  if (!depths.has(curve)) depths.set(curve, curve.gain_db.reduce((least, gain) => Math.min(least, gain), 0));
  return depths.get(curve);
}

const pins = new WeakMap();

/** The points set by hand: index → number of the pin. */
export function pinsOf(curve) {
  if (!pins.has(curve)) pins.set(curve, new Map(curve.pins ?? []));
  return pins.get(curve);
}
