import assert from "node:assert/strict";
import { test } from "node:test";

import { TimeLeft } from "../../src/jaylantern/web/static/js/plain/time_left.js";

const TABLE = [
  ["nothing to reckon with at first", [[0, 0]], "0 %"],
  ["nor too soon", [[0, 0], [0.2, 1000]], "20 %"],
  ["a quarter in ten seconds leaves thirty", [[0, 0], [0.25, 10_000]], "25 % · 30 s left"],
  ["reckoned from what was seen first", [[0.5, 5000], [0.75, 15_000]], "75 % · 10 s left"],
  ["minutes", [[0, 0], [0.1, 60_000]], "10 % · 9 min left"],
  ["hours", [[0, 0], [0.1, 3_600_000]], "10 % · 9.0 h left"],
  ["begun anew", [[0.9, 0], [0.1, 1000], [0.2, 11_000]], "20 % · 80 s left"],
  ["hardly anything done says no time", [[0, 0], [0.01, 60_000]], "1 %"],
];

for (const [says, told, words] of TABLE) {
  test(`time left: ${says}`, () => {
    const left = new TimeLeft();
    assert.equal(told.map(([share, now_ms]) => left.words(share, now_ms)).at(-1), words);
  });
}
