// Pure: reading a gain curve for drawing. The rules that make it live on the server.

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

/** Gain in dB at a time. @param {{time_n: number[], gain_db: number[]}} curve */
export function gainAt(curve, time_n) {
  const i = upper(curve.time_n, time_n);
  if (i === 0) return curve.gain_db[0];
  if (i === curve.time_n.length) return curve.gain_db[i - 1];
  const share = (time_n - curve.time_n[i - 1]) / (curve.time_n[i] - curve.time_n[i - 1]);
  return curve.gain_db[i - 1] + share * (curve.gain_db[i] - curve.gain_db[i - 1]);
}

/** Points of the curve within [start_n, stop_n] with one at each end, as [time, dB] pairs. */
export function pointsWithin(curve, start_n, stop_n) {
  const points = [[start_n, gainAt(curve, start_n)]];
  for (let i = upper(curve.time_n, start_n); i < curve.time_n.length && curve.time_n[i] < stop_n; i += 1) {
    points.push([curve.time_n[i], curve.gain_db[i]]);
  }
  points.push([stop_n, gainAt(curve, stop_n)]);
  return points;
}

/** The lowest gain the curve reaches. */
export function deepest(curve) {
  return curve.gain_db.reduce((least, gain) => Math.min(least, gain), 0);
}
