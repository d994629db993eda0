// Pure: what a ride of a fader writes, part by part. Times are samples, gains dB, the page's clock milliseconds.

import { LEAST_DB, MOST_DB } from "./gain_line.js";
import { RATE } from "./units.js";

const AHEAD_N = 2 * RATE; // while it is ridden the fader is taken to stay where it is
const LEAST_N = RATE / 50; // a shorter ride writes nothing
const JUMP_N = RATE / 2; // so far from where it should have got to, it plays on somewhere else

/** @typedef {{time_n: number[], gains: number[], gain_db: number, noted_ms: number}} RidePart the points so far; `gain_db`: where the fader stands */

/** A part of a ride, as it begins. @returns {RidePart} */
export const begun = (now_n, gain_db, at_ms) => ({ time_n: [now_n], gains: [gain_db], gain_db, noted_ms: at_ms });

/** The gain of the line while the fader stands at so many dB: it moves from where the line was. */
export const ridden = (from_db, fader_db, lane_db) => Math.min(Math.max(from_db + fader_db - lane_db, LEAST_DB), MOST_DB);

/** Has the playhead gone elsewhere: back, or farther on than it plays in the time that has passed? @param {RidePart} part */
export function jumped({ time_n, noted_ms }, { now_n, at_ms, rate }) {
  const due_n = time_n.at(-1) + ((at_ms - noted_ms) * RATE * Math.max(Math.abs(rate), 1)) / 1000; // however long the page was busy
  return now_n < time_n.at(-1) || now_n > due_n + JUMP_N;
}

/** The part with where the fader stands now noted. What is held still is two points, however long. @param {RidePart} part @returns {RidePart} */
export function noted(part, { now_n, at_ms }) {
  const { gain_db } = part;
  const [time_n, gains] = [[...part.time_n], [...part.gains]];
  const stood = gains.at(-1) === gains.at(-2);
  if (stood && gains.at(-1) === gain_db) time_n[time_n.length - 1] = now_n;
  else if (now_n > time_n.at(-1) || (stood && now_n - 1 > time_n.at(-2))) {
    time_n[time_n.length - 1] = Math.min(time_n.at(-1), now_n - 1);
    time_n.push(now_n);
    gains.push(gain_db);
  } else gains[gains.length - 1] = gain_db;
  return { ...part, time_n, gains, noted_ms: at_ms };
}

/** The part as it is heard while the fader is still held. @param {RidePart} part @returns {RidePart} */
export const ahead = (part) => ({ ...part, time_n: [...part.time_n, part.time_n.at(-1) + AHEAD_N], gains: [...part.gains, part.gain_db] });

/** Is there anything to write? @param {RidePart} part */
export const long = ({ time_n }) => time_n.at(-1) - time_n[0] >= LEAST_N;
