// How high the lanes are: 60 px, music 100, a picture 40 where there is room; less where there is not, down to 52, 60 and 34; and up to four times as much.

import assert from "node:assert/strict";
import { test } from "node:test";
import { laneHeights } from "../../src/jaylantern/web/static/js/plain/lane_heights.js";

const LANES = [{ id: 1, kind: "picture" }, { id: 2, kind: "sound", shown_tag: "dialogue" }, { id: 3, kind: "sound", shown_tag: "music" }];
const view = (held = {}) => ({ folded: (id) => held[id] === "folded", height: (id) => (typeof held[id] === "number" ? held[id] : null) });

for (const [what, room_px, held, heights] of [
  ["no room at all: the least", 0, {}, [34, 52, 60]],
  ["room as usual", 12 + 200, {}, [40, 60, 100]],
  ["half of what lies between least and usual", 12 + 173, {}, [37, 56, 80]],
  ["room for twice as much", 412, {}, [80, 120, 200]],
  ["more room than four times as much", 5000, {}, [160, 240, 400]],
  ["a folded lane takes 28 and the others share", 12 + 28 + 320, { 2: "folded" }, [91, 28, 228]],
  ["a given height stays", 12 + 200 + 140, { 2: 200 }, [40, 200, 100]],
]) {
  test(String(what), () => assert.deepEqual(laneHeights(LANES, { room_px: Number(room_px), view: view(held) }), heights));
}

test("lanes whose clips differ in their tags are 60 high where there is room, and no lanes take no room", () => {
  assert.deepEqual(laneHeights([{ id: 1, kind: "sound", shown_tag: "mixed" }], { room_px: 64, view: view() }), [60]);
  assert.deepEqual(laneHeights([], { room_px: 500, view: view() }), []);
});
