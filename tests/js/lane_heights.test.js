// How high the lanes are: at least 60 px, music 100, a picture 40; what room is left is shared, up to four times as much.

import assert from "node:assert/strict";
import { test } from "node:test";
import { laneHeights } from "../../src/jaylantern/web/static/js/lane_heights.js";

const LANES = [{ id: 1, kind: "picture" }, { id: 2, kind: "sound", shown_tag: "dialogue" }, { id: 3, kind: "sound", shown_tag: "music" }];
const view = (held = {}) => ({ folded: (id) => held[id] === "folded", height: (id) => (typeof held[id] === "number" ? held[id] : null) });

for (const [what, room_px, held, heights] of [
  ["no room at all: the least", 0, {}, [40, 60, 100]],
  ["room for twice as much", 412, {}, [80, 120, 200]],
  ["more room than four times as much", 5000, {}, [160, 240, 400]],
  ["a folded lane takes 28 and the others share", 12 + 28 + 320, { 2: "folded" }, [91, 28, 228]],
  ["a given height stays", 12 + 200 + 140, { 2: 200 }, [40, 200, 100]],
]) {
  test(String(what), () => assert.deepEqual(laneHeights(LANES, { room_px: Number(room_px), view: view(held) }), heights));
}

test("lanes whose clips differ in their tags are 60 high, and no lanes take no room", () => {
  assert.deepEqual(laneHeights([{ id: 1, kind: "sound", shown_tag: "mixed" }], { room_px: 0, view: view() }), [60]);
  assert.deepEqual(laneHeights([], { room_px: 500, view: view() }), []);
});
