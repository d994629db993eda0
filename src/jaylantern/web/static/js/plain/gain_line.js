// Pure: the gain line of a clip as a curve over the timeline, and how it would look while it is being changed.

import { gainAt } from "./curve.js";
import { RATE } from "./units.js";

export const LEAST_DB = -60;
export const MOST_DB = 24;
const RAMPS = ["decibel", "amplitude", "eased"]; // by their codes
const RAMP_N = RATE / 20;

const lines = new WeakMap();

/** The line of a clip over the timeline; one without points is flat at 0 dB and `empty`. @returns {import("./curve.js").Curve & {empty: boolean}} */
export function lineOf(clip) {
  if (!lines.has(clip)) {
    const points = clip.line ?? [];
    const shift_n = clip.start_n - clip.offset_n;
    lines.set(clip, {
      time_n: points.length ? points.map((point) => point[0] + shift_n) : [clip.start_n],
      gain_db: points.length ? points.map((point) => point[1]) : [0],
      ramp: points.some((point) => point[2]) ? points.map((point) => RAMPS.indexOf(point[2] ?? RAMPS[0])) : undefined,
      empty: !points.length,
    });
  }
  return lines.get(clip);
}

/** Scale of a line in a lane: 12 dB over 0 and 24 under it, more where the line goes farther. */
export function lineScale(height, curve) {
  const high_db = Math.max(12, 6 * Math.ceil(Math.max(...curve.gain_db) / 6));
  const low_db = Math.min(-24, 6 * Math.floor(Math.min(...curve.gain_db) / 6));
  const [top, bottom] = [6, height - 6];
  const px = (bottom - top) / (high_db - low_db);
  return { y: (gain_db) => top + (high_db - gain_db) * px, db: (at) => high_db - (at - top) / px };
}

/** A line raised over a stretch of the timeline, with short ramps outside it, as the server would. */
export function raised(curve, start_n, stop_n, by_db) {
  const ends = [start_n - RAMP_N, start_n, stop_n, stop_n + RAMP_N];
  const kept = curve.empty
    ? []
    : curve.time_n.map((n, i) => [n, curve.gain_db[i]]).filter(([n]) => (n <= ends[0] || n >= start_n) && (n <= stop_n || n >= ends[3]));
  const points = [...kept.filter(([n]) => !ends.includes(n)), ...ends.map((n) => [n, gainAt(curve, n)])].sort((a, b) => a[0] - b[0]);
  const limited = (n, db) => Math.min(Math.max(db + (n >= start_n && n <= stop_n ? by_db : 0), LEAST_DB), MOST_DB);
  return { time_n: points.map(([n]) => n), gain_db: points.map(([n, db]) => limited(n, db)), empty: false };
}

/** The gains a curve has at both ends of a stretch and at its points within. @returns {number[]} */
export function levelsIn(curve, start_n, stop_n) {
  const within = curve.time_n.map((n, i) => [n, curve.gain_db[i]]).filter(([n]) => n > start_n && n < stop_n);
  return [gainAt(curve, start_n), ...within.map(([, db]) => db), gainAt(curve, stop_n)];
}
