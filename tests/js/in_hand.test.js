import assert from "node:assert/strict";
import { test } from "node:test";

import { followed } from "../../src/jaylantern/web/static/js/plain/in_hand.js";

const at = (start_n, stop_n) => ({ start_n, stop_n });
const BEFORE = [at(10, 20), at(30, 40), at(90, 99)];

const TABLE = [
  ["the same passage under another number", at(30, 40), [at(0, 5), at(10, 20), at(30, 40)], [], { passage: 2, aside: null }],
  ["the half of a split passage that is longer", at(10, 20), [at(10, 13), at(13, 20)], [], { passage: 1, aside: null }],
  ["one of two equal halves: the first", at(10, 20), [at(10, 15), at(15, 20)], [], { passage: 0, aside: null }],
  ["what was said to be no speech, not the next passage", at(10, 20), BEFORE.slice(1), [[10, 20]], { passage: null, aside: at(10, 20) }],
  ["the passage that is back where something was set aside", at(10, 20), BEFORE, [], { passage: 0, aside: null }],
  ["a passage that shares something, before what is set aside", at(10, 20), [at(18, 40)], [[10, 17]], { passage: 0, aside: null }],
  ["another stretch that is set aside is not meant", at(10, 20), BEFORE.slice(1), [[50, 60]], { passage: 0, aside: null }],
  ["gone without a trace: the nearest", at(70, 80), BEFORE, [], { passage: 2, aside: null }],
  ["nothing was in hand: the first", null, BEFORE, [[50, 60]], { passage: 0, aside: null }],
  ["there is none", at(10, 20), [], [], { passage: null, aside: null }],
];

for (const [says, held, passages, set_aside, found] of TABLE) {
  test(`in hand stays ${says}`, () => assert.deepEqual(followed(held, { passages, set_aside }), found));
}
