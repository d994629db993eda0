// Where pieces lie on the ribbon, and what is heard of the recording at a time.

import assert from "node:assert/strict";
import { test } from "node:test";
import { placeOf, tiersOf } from "../../src/jaylantern/web/static/js/plain/ribbon_shape.js";

const TIERS = [
  [[], 1, []],
  [[[0, 100, 0, 100]], 1, [0]],
  [[[0, 40, 0, 40], [60, 100, 40, 40]], 1, [0, 0]],
  [[[0, 60, 0, 60], [20, 100, 60, 80]], 2, [0, 1]],
  [[[0, 60, 0, 60], [20, 50, 60, 30], [70, 90, 90, 20], [10, 30, 110, 20]], 3, [0, 1, 1, 2]],
];
for (const [pieces, tiers, at] of TIERS) {
  test(`${pieces.length} pieces lie on ${tiers} tiers: ${at}`, () => assert.deepEqual(tiersOf(pieces), { tiers, at }));
}

const PIECES = [[0, 40, 0, 40], [60, 100, 40, 40], [10, 31, 80, 20]];
const PLACES = [[0, 0, 0], [39, 0, 39], [40, 1, 60], [70, 1, 90], [80, 2, 10], [90, 2, 20.5]];
for (const [at_n, piece, time_n] of PLACES) {
  test(`at ${at_n} piece ${piece} plays ${time_n}`, () => assert.deepEqual(placeOf(PIECES, at_n), { piece, time_n }));
}
