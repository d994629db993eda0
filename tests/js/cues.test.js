// Which cues are on in a stretch, and at a moment.

import assert from "node:assert/strict";
import { test } from "node:test";
import { cueAt, cuesWithin } from "../../src/jaylantern/web/static/js/plain/cues.js";

const CUES = [[0, 10, "a"], [10, 20, "b"], [15, 40, "c"], [30, 32, "d"], [50, 60, "e"]];

for (const [from, to, said] of [[0, 1, "a"], [9, 11, "ab"], [10, 11, "b"], [16, 17, "bc"], [41, 50, ""], [0, 100, "abcde"], [59, 60, "e"], [60, 99, ""]]) {
  test(`in [${from}, ${to}) there is "${said}"`, () => assert.equal(cuesWithin(CUES, from, to).map((cue) => cue[2]).join(""), said));
}

for (const [at, said] of [[0, "a"], [10, "b"], [19, "c"], [31, "d"], [33, "c"], [45, null], [60, null]]) {
  test(`at ${at} it is ${said}`, () => assert.equal(cueAt(CUES, at)?.[2] ?? null, said));
}
