// Where something that is dragged clicks into place.

import assert from "node:assert/strict";
import { test } from "node:test";
import { places, snapped } from "../../src/jaylantern/web/static/js/plain/snapping.js";

const DOC = {
  lanes: [{ clips: [{ id: 1, start_n: 100, length_n: 50, role: "key" }, { id: 2, start_n: 400, length_n: 100, role: "yields" }] }],
  markers: [{ time_n: 222 }],
  in_n: null,
  out_n: 900,
  passages: [{ start_n: 110, stop_n: 140 }, { start_n: 700, stop_n: 800 }],
};

test("edges, markers, range, passages, the playhead and the start are places", () => {
  assert.deepEqual(places(DOC, { moving: new Set(), playhead_n: 55.4 }), [0, 55, 100, 110, 140, 150, 222, 400, 500, 700, 800, 900]);
});

test("what moves is no place for itself, nor are the passages that move with it", () => {
  assert.deepEqual(places(DOC, { moving: new Set([1]), playhead_n: 0 }), [0, 222, 400, 500, 700, 800, 900]);
  assert.deepEqual(places(DOC, { moving: new Set([2]), playhead_n: 0 }), [0, 100, 110, 140, 150, 222, 700, 800, 900]);
});

for (const [by_n, edges, reach_n, expected] of [
  [95, [0], 10, { by_n: 100, at_n: 100 }],
  [89, [0], 10, { by_n: 89, at_n: null }],
  [90, [0], 10, { by_n: 100, at_n: 100 }],
  [0, [95, 203], 10, { by_n: -3, at_n: 200 }], // the edge that is nearest decides
  [0, [150], 60, { by_n: -50, at_n: 100 }], // in the middle: the earlier place
  [-500, [0], 10, { by_n: -500, at_n: null }],
]) {
  test(`a shift of ${by_n} with edges at ${edges} within ${reach_n} of 100 and 200`, () => {
    assert.deepEqual(snapped(by_n, edges, [100, 200], reach_n), expected);
  });
}
