// Reading a gain curve for drawing. The courses are those of tests/core/ducking/test_curve.py: half way from 0 to −20 dB a ramp
// straight in dB is at −10 dB, straight in amplitude at 20·log10(0.55) = −5.193 dB, eased at −10 dB.

import assert from "node:assert/strict";
import { test } from "node:test";
import { columnsWithin, countWithin, deepest, gainAt, pinsOf, pointsWithin, upper } from "../../src/jaylantern/web/static/js/plain/curve.js";
import { near } from "./near.js";

const curve = (ramp = []) => ({ time_n: [1000, 2000, 4000, 5000], gain_db: [0, -20, -20, 0], ramp, pins: [[2, 7]] });

for (const [values, x, index] of [[[], 5, 0], [[5], 4, 0], [[5], 5, 1], [[1, 5, 5, 9], 5, 3], [[1, 5, 9], 10, 3]]) {
  test(`the first of [${values}] greater than ${x} is number ${index}`, () => assert.equal(upper(values, x), index));
}

for (const [time_n, gain_db] of [[0, 0], [1000, 0], [1500, -10], [2000, -20], [3000, -20], [4750, -5], [9000, 0]]) {
  test(`straight in dB, the gain at ${time_n} is ${gain_db} dB`, () => near(gainAt(curve(), time_n), gain_db));
}

for (const [code, half_db, quarter_db] of [[0, -10, -5], [1, -5.19275, -2.21397], [2, -10, -2.92893]]) {
  test(`the course of ramp ${code}`, () => {
    near(gainAt(curve([code, 0, 0]), 1500), half_db, 1e-4);
    near(gainAt(curve([code, 0, 0]), 1250), quarter_db, 1e-4);
  });
}

test("what is drawn begins and ends at the edges of what is in view, and bends in sixteen parts", () => {
  assert.deepEqual(pointsWithin(curve(), 500, 3000), [[500, 0], [1000, 0], [2000, -20], [3000, -20]]);
  const bent = pointsWithin(curve([2, 0, 0]), 500, 3000);
  assert.equal(bent.length, 4 + 15);
  near(bent[9][1], -10); // the middle of the bent ramp
  assert.equal(pointsWithin(curve([2, 0, 0]), 1500, 3000).length, 1 + 7 + 1 + 1); // only the half that is in view
});

test("points are counted from the first sample in view up to the last but one", () => {
  assert.equal(countWithin(curve(), 1000, 4000), 2); // 2000 and 4000 lie after 1000 and up to 4000
  assert.equal(countWithin(curve(), 0, 6000), 4);
});

test("columns hold the highest, the lowest and the mean gain between their edges", () => {
  const { high, low, mean } = columnsWithin(curve(), 1000, 1000, 4);
  assert.deepEqual([...high], [0, -20, -20, 0]);
  assert.deepEqual([...low], [-20, -20, -20, -20]);
  assert.deepEqual([...mean], [-10, -20, -20, -10]);
});

test("the deepest gain is never over 0 dB, and pins are found by the index of their point", () => {
  assert.equal(deepest(curve()), -20);
  assert.equal(deepest({ time_n: [0], gain_db: [3] }), 0);
  assert.deepEqual([...pinsOf(curve())], [[2, 7]]);
  assert.equal(pinsOf({ time_n: [0], gain_db: [0] }).size, 0);
});
