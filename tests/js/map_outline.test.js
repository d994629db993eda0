// What the strip of the whole film shows: 1000 px for 100 s.

import assert from "node:assert/strict";
import { test } from "node:test";
import * as map from "../../src/jaylantern/web/static/js/plain/map_outline.js";
import { near } from "./near.js";

const S = 48_000;
const view = (from_s, to_s) => ({ width: 1000, length_n: 100 * S, start_n: from_s * S, stop_n: to_s * S });

test("passages lie where they are in the film, none narrower than a pixel", () => {
  const passages = [{ start_n: 10 * S, stop_n: 25 * S }, { start_n: 50 * S, stop_n: 50.01 * S }];
  assert.deepEqual(map.passageSpans(view(0, 100), passages), [[100, 150], [500, 1]]);
});

test("markers stand at their times", () => assert.deepEqual(map.markerPlaces(view(0, 100), [{ time_n: 0 }, { time_n: 75 * S }]), [0, 750]));

for (const [what, from_s, to_s, left, right] of [
  ["the whole film: half a pixel within the strip", 0, 100, 0.5, 999.5],
  ["a stretch of it", 20, 40, 200.5, 400],
  ["its end", 90, 100, 900.5, 999.5],
  ["more than there is", -10, 130, 0.5, 999.5],
]) {
  test(`the outline of ${what}`, () => assert.deepEqual(map.viewSpan(view(Number(from_s), Number(to_s))), [left, right]));
}

test("the glow is as bright as the music is loud, in columns of two pixels, to the end of the film", () => {
  const curve = { time_n: [0, 50 * S], gain_db: [0, -20] };
  const columns = map.glow(view(0, 100), curve, 80 * S);
  assert.equal(columns.length, 400);
  assert.deepEqual(columns.slice(0, 2).map(([at]) => at), [0, 2]);
  near(columns[0][1], 1);
  near(columns.at(-1)[1], 0.1, 1e-3);
  near(columns[125][1], 10 ** (-10 / 20), 1e-3); // half way down in dB
  assert.deepEqual(map.glow(view(0, 100), curve, 0), []);
});

test("the time under a place is where it is in the film", () => assert.equal(map.timeUnder(view(20, 40), 250), 25 * S));
