import assert from "node:assert/strict";
import { test } from "node:test";
import { brightness, spread, stepped } from "../../src/jaylantern/web/static/js/plain/tuning_field.js";

test("the most is the brightest, or the least where less is better", () => {
  const more = brightness([2, 4, 6], true);
  assert.deepEqual([2, 4, 6].map(more), [0, 0.5, 1]);
  assert.deepEqual([2, 4, 6].map(brightness([2, 4, 6], false)), [1, 0.5, 0]);
});

test("what is alike everywhere is half lit, and what is not known counts as the clearest", () => {
  assert.equal(brightness([3, 3], true)(3), 0.5);
  assert.equal(brightness([1, null, 2], true)(null), 1);
});

test("a value lies between two places", () => {
  assert.equal(spread([0, 10, 20], 5), 0.5);
  assert.equal(spread([0, 10, 20], 20), 2);
  assert.equal(spread([0, 10, 20], -3), 0);
  assert.equal(spread([0, 10, 20], 99), 2);
});

test("a step goes to the next place that way and stays on the map", () => {
  assert.deepEqual(stepped([1, 1], [1, 0], [3, 3]), [2, 1]);
  assert.deepEqual(stepped([0.4, 1], [1, 0], [3, 3]), [1, 1]);
  assert.deepEqual(stepped([0.4, 1], [-1, 0], [3, 3]), [0, 1]);
  assert.deepEqual(stepped([2, 2], [1, 1], [3, 3]), [2, 2]);
  assert.deepEqual(stepped([0, 0], [-1, -1], [3, 3]), [0, 0]);
});
