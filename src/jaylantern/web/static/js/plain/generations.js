// Pure: how one generation of windows follows another on the clock. Times of the clock are seconds, places of the programme
// samples; within a generation windows join sample by sample.

import { RATE } from "./units.js";
import { placeIn } from "./windows.js";

export const FADE_S = 0.012; // of the crossfade from one generation to the next
const LATE_S = 0.015; // what comes later than this before its time can't be put on the clock for it

/** @typedef {{at: number, end: number, start_n: number, stop_n: number, rate: number}} Part a window on the clock, from `at` to `end` */

/** The next moment that falls on a sample; one that does already, but for rounding, stays. */
export const onSample = (at) => Math.ceil(at * RATE - 0.01) / RATE;

/** The window that is heard at a moment, of the old generation and then the new: the one that began last. @template {Part} P @param {P[]} parts @returns {P | null} */
export function heardOf(parts, at) {
  let heard = null;
  for (const part of parts) if (part.at <= at && (!heard || part.at >= heard.at)) heard = part;
  return heard;
}

/** Where in the programme a new generation that is to sound from `at` begins; `still_n` where nothing is on the clock. @param {Part[]} parts */
export function goesOnAt(parts, at, still_n) {
  const part = parts.findLast((each) => each.at <= at) ?? parts[0];
  return part ? placeIn(part, Math.max(at, part.at), RATE) : still_n;
}

/**
 * What becomes of a window that came too late for its time.
 * @param {{now: number, next_at: number, count_n: number, rate: number, over: boolean}} how `over`: it takes over from a
 *   generation that is heard meanwhile, so what is late of it has been heard; else it begins later
 * @returns {{next_at: number, skip_n: number, heard: boolean}} `skip_n`: so much of it is left out; `heard`: all of it has been
 */
export function late({ now, next_at, count_n, rate, over }) {
  const late_s = now + LATE_S - next_at;
  if (late_s <= 0) return { next_at, skip_n: 0, heard: false };
  if (!over) return { next_at: onSample(next_at + late_s), skip_n: 0, heard: false };
  const skip_n = Math.min(Math.ceil(late_s * RATE * Math.abs(rate)), count_n);
  return { next_at: onSample(next_at + skip_n / RATE / Math.abs(rate)), skip_n, heard: skip_n === count_n };
}

/** The gain of a generation that is heard from a moment on: [time, amplitude], by lines; at once where nothing was heard before. @param {boolean} over does it take over from another one? */
export const fadedIn = (at, level, over) => (over ? [[at, 0], [at + FADE_S, level]] : [[at, level]]);

/** The gain of one that goes. */
export const fadedOut = (at, level) => [[at, level], [at + FADE_S, 0]];

/** What of the old generation is heard until the new one takes over. @template {Part} P @param {P[]} parts @returns {P[]} */
export const heardBefore = (parts, at) => parts.map((part) => ({ ...part, end: Math.min(part.end, at) })).filter((part) => part.at < at);

/** Where playing begins from a place: at the beginning if it stands at the end; a little before a place that was gone to. @param {{at_n: number, from_n: number} | null} lead */
export function beginsAt(still_n, { length_n, rate, lead }) {
  const from_n = still_n >= length_n && rate > 0 ? 0 : still_n;
  return lead?.at_n === from_n && rate === 1 ? lead.from_n : from_n;
}

/** Is a place within a loop? Its end is not. @param {number[]} loop */
export const inLoop = (time_n, [start_n, stop_n]) => time_n >= start_n && time_n < stop_n;
