// What the timeline looks like while something is being dragged.

import assert from "node:assert/strict";
import { test } from "node:test";
import { previewed } from "../../src/jaylantern/web/static/js/plain/preview.js";

const clip = (id, start_n) => ({ id, start_n, length_n: 10 });
const LANES = [
  { id: 1, kind: "picture", clips: [clip(11, 0)] },
  { id: 2, kind: "sound", clips: [clip(21, 0), clip(22, 50)] },
  { id: 3, kind: "sound", clips: [] },
  { id: 4, kind: "sound", clips: [clip(41, 5)] },
];
const laid = (preview) => Object.fromEntries(previewed(LANES, preview).map(({ lane, clips }) => [lane.id, clips.map((each) => [each.id, each.start_n])]));
const moved = (ids, by_n, lanes_by, across = ids) => ({ moved: { ids: new Set(ids), by_n, lanes_by, kind: "sound", across: new Set(across) } });

test("with nothing dragged all lies as it does", () => {
  assert.deepEqual(laid(null), { 1: [[11, 0]], 2: [[21, 0], [22, 50]], 3: [], 4: [[41, 5]] });
});

test("a clip that is trimmed shows its new values", () => {
  assert.deepEqual(previewed(LANES, { changed: new Map([[22, { length_n: 3 }]]) })[1].clips[1], { id: 22, start_n: 50, length_n: 3 });
});

for (const [what, preview, found] of [
  ["in time", moved([21], 7, 0), { 1: [[11, 0]], 2: [[21, 7], [22, 50]], 3: [], 4: [[41, 5]] }],
  ["one lane down", moved([21], 0, 1), { 1: [[11, 0]], 2: [[22, 50]], 3: [[21, 0]], 4: [[41, 5]] }],
  ["no further down than the last lane of its kind", moved([21], 0, 9), { 1: [[11, 0]], 2: [[22, 50]], 3: [], 4: [[21, 0], [41, 5]] }],
  ["no further up than the first, never onto the picture", moved([41], 0, -9), { 1: [[11, 0]], 2: [[21, 0], [22, 50], [41, 5]], 3: [], 4: [] }],
  ["two lanes together, kept apart", moved([21, 41], 1, 5), { 1: [[11, 0]], 2: [[21, 1], [22, 50]], 3: [], 4: [[41, 6]] }],
  ["a linked picture in time only", moved([11, 21], 3, 1, [21]), { 1: [[11, 3]], 2: [[22, 50]], 3: [[21, 3]], 4: [[41, 5]] }],
]) {
  test(`moved ${what}`, () => assert.deepEqual(laid(preview), found));
}
