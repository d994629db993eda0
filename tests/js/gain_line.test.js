// Gain lines as the page draws them; how a raised stretch looks is what the server makes of it (tests/core/edit/test_lines.py).

import assert from "node:assert/strict";
import { test } from "node:test";
import { gainAt } from "../../src/jaylantern/web/static/js/plain/curve.js";
import { lineOf, lineScale, raised } from "../../src/jaylantern/web/static/js/plain/gain_line.js";
import { near } from "./near.js";

const RATE = 48000;
const clip = (line) => ({ start_n: 10 * RATE, offset_n: 4 * RATE, length_n: 20 * RATE, line });

test("a line lies in media time and is drawn on the timeline", () => {
  const line = lineOf(clip([[5 * RATE, -3], [8 * RATE, 6, "eased"], [9 * RATE, 0]]));
  assert.deepEqual(line.time_n, [11 * RATE, 14 * RATE, 15 * RATE]);
  assert.deepEqual(line.ramp, [0, 2, 0]);
  near(gainAt(line, 14.5 * RATE), 3);
});

test("a clip without a line is flat at 0 dB", () => {
  const line = lineOf(clip([]));
  assert.equal(line.empty, true);
  assert.equal(gainAt(line, 12 * RATE), 0);
});

for (const [points, expected] of [
  [[], [[11.95, 0], [12, 3], [15, 3], [15.05, 0]]],
  [[[4 * RATE, -2]], [[10, -2], [11.95, -2], [12, 1], [15, 1], [15.05, -2]]],
  [[[6 * RATE, 0], [7 * RATE, -4], [20 * RATE, -4]], [[12, 3], [13, -1], [15, -1], [15.05, -4], [26, -4]]],
  [[[6 * RATE, 0], [7 * RATE, 23], [20 * RATE, -4]], [[13, 24]]],
]) {
  test(`raised by 3 dB from 12 to 15 s: ${JSON.stringify(points.map(([n, db]) => [n / RATE, db]))}`, () => {
    const line = raised(lineOf(clip(points)), 12 * RATE, 15 * RATE, 3);
    for (const [at_s, db] of expected) near(gainAt(line, at_s * RATE), db, 0.02);
  });
}

test("the scale goes there and back, and holds what lies far off", () => {
  const scale = lineScale(60, { gain_db: [-40, 18] });
  for (const db of [-40, 0, 18]) near(scale.db(scale.y(db)), db);
  assert.ok(scale.y(18) >= 6 && scale.y(-40) <= 54);
});
