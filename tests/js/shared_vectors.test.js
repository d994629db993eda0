// What the program and its page both compute: the page's side. The values are the program's (tests/vectors).

import assert from "node:assert/strict";
import { readFileSync } from "node:fs";
import { test } from "node:test";
import { gainAt } from "../../src/jaylantern/web/static/js/plain/curve.js";
import { fadeAt } from "../../src/jaylantern/web/static/js/plain/fades.js";
import { nearestFrame } from "../../src/jaylantern/web/static/js/plain/frames.js";
import { lineOf, raised } from "../../src/jaylantern/web/static/js/plain/gain_line.js";
import { Peaks } from "../../src/jaylantern/web/static/js/plain/peaks.js";
import { RATE, amplitude, clock } from "../../src/jaylantern/web/static/js/plain/units.js";
import { near } from "./near.js";

const SHARED = JSON.parse(readFileSync(new URL("../vectors/shared.json", import.meta.url), "utf8"));
const LONG_N = 1_000_000;

/** How each part is computed here: [found, wanted] pairs of a row. */
const HERE = {
  peaks: async ({ base_n, counts, pairs, start_n, n_per_px, columns }) => {
    const read = new Peaks(counts, base_n, async (start, count) => Int16Array.from(pairs.slice(2 * start, 2 * (start + count))), () => {});
    await read.loadCoarse();
    return [...read.columns(start_n, n_per_px, columns.length / 2)].map((value, i) => [value, columns[i]]);
  },
  ramps: ({ code, from_db, to_db, shares, gain_db }) => {
    const curve = { time_n: [0, LONG_N], gain_db: [from_db, to_db], ramp: [code] };
    return shares.map((share, i) => [gainAt(curve, share * LONG_N), gain_db[i]]);
  },
  fades: ({ shape, shares, amplitude: wanted }) => {
    const clip = { start_n: 0, length_n: 3 * LONG_N, heard_in_n: LONG_N, heard_out_n: 0, fade_in_shape: shape, fade_out_shape: shape };
    const mirrored = { ...clip, heard_in_n: 0, heard_out_n: LONG_N };
    return shares.flatMap((share, i) => [[fadeAt(clip, share * LONG_N), wanted[i]], [fadeAt(mirrored, 3 * LONG_N - share * LONG_N), wanted[i]]]);
  },
  frames: ({ fps, origin_n, time_n, framed_n }) => time_n.map((n, i) => [nearestFrame(n, RATE / fps, origin_n), framed_n[i]]),
  raised: ({ line, stretch: [from_s, to_s, by_db], points }) => {
    const clip = { start_n: 0, offset_n: 0, length_n: 100 * RATE, line: line.map(([at_s, gain_db]) => [Math.round(at_s * RATE), gain_db]) };
    const found = raised(lineOf(clip), Math.round(from_s * RATE), Math.round(to_s * RATE), by_db);
    const kept = found.gain_db.map((db) => Math.round(1000 * db) / 1000); // the program keeps thousandths
    return [[found.time_n.length, points.length], ...points.flatMap(([n, db], i) => [[found.time_n[i], n], [kept[i], db]])];
  },
  clock: ({ decimals, time_n, text }) => time_n.map((n, i) => [clock(n, decimals), text[i]]),
  amplitude: ({ gain_db, amplitude: wanted }) => [[amplitude(gain_db), wanted]],
};

test("all that is shared is computed here", () => assert.deepEqual(Object.keys(SHARED), Object.keys(HERE)));

for (const [name, rows] of Object.entries(SHARED)) {
  for (const [i, row] of rows.entries()) {
    test(`${name} ${i}: as the program computes it`, async () => {
      for (const [found, wanted] of await HERE[name](row)) {
        if (typeof wanted === "string") assert.equal(found, wanted);
        else near(found, wanted, 1e-6);
      }
    });
  }
}
