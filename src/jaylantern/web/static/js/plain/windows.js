// Pure: which window of the programme is fetched next, and where in it one is at a time of the clock.
//
//   on     [start ─────▶ stop)   the next one begins at stop
//   back   (start ◀───── stop]   the next one ends at start

import { RATE } from "./units.js";

export const WINDOW_N = RATE; // windows end at whole seconds, as the server renders them

/**
 * The window to play from a place on.
 * @param {{at_n: number, rate: number, length_n: number, loop: number[] | null, skips: number[][], wide?: number}} where `rate` is
 *   negative for playing back; loop and skips hold for playing on at any rate; `wide` is how many seconds it may span
 * @returns {{start_n: number, stop_n: number} | null} null at the end of what there is
 */
export function nextWindow({ at_n, rate, length_n, loop, skips, wide = 1 }) {
  if (rate < 0) {
    const stop_n = Math.min(at_n, length_n);
    if (stop_n <= 0) return null;
    const start_n = Math.max(0, (Math.ceil(stop_n / WINDOW_N) - wide) * WINDOW_N);
    return { start_n, stop_n };
  }
  let start_n = at_n;
  if (loop && start_n >= loop[1]) start_n = loop[0];
  const end_n = loop && start_n < loop[1] ? loop[1] : length_n;
  const skip = skips.find(([from_n, to_n]) => from_n <= start_n && start_n < to_n);
  if (skip) start_n = Math.min(skip[1], end_n);
  if (start_n >= end_n) return null;
  const whole_n = (Math.floor(start_n / WINDOW_N) + wide) * WINDOW_N;
  const stop_n = skips.reduce((stop, [from_n]) => (from_n > start_n ? Math.min(stop, from_n) : stop), Math.min(whole_n, end_n));
  return { start_n, stop_n };
}

/** Where in the programme a window that sounds from `at` (s of the clock) is at a time of the clock. */
export function placeIn({ at, start_n, stop_n, rate }, time, sample_rate) {
  const gone_n = Math.min(Math.round((time - at) * sample_rate * Math.abs(rate)), stop_n - start_n);
  return rate < 0 ? stop_n - gone_n : start_n + gone_n;
}

/** Interleaved frames in the opposite order. @param {Float32Array} samples */
export function backwards(samples, channels) {
  const turned = new Float32Array(samples.length);
  const count = samples.length / channels;
  for (let i = 0; i < count; i += 1) {
    for (let c = 0; c < channels; c += 1) turned[i * channels + c] = samples[(count - 1 - i) * channels + c];
  }
  return turned;
}

/** The rate after one more press for a way (1 on, −1 back): the other way begins at once, the same way doubles up to eight. */
export function faster(rate, way) {
  if (Math.sign(rate) !== way) return way;
  return way * Math.min(8, 2 * Math.abs(rate));
}
