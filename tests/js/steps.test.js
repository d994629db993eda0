// What is chosen after a step back or forth, and whether the step was made in another window.

import assert from "node:assert/strict";
import { test } from "node:test";
import { chosenAfter, madeElsewhere } from "../../src/jaylantern/web/static/js/plain/steps.js";

for (const [what, clips, chosen] of [
  ["what was chosen before the step was made", { known: [2, 3], was: [1, 2, 3], there: [1, 2, 3], chosen: [1] }, [2, 3]],
  ["of that only what is there", { known: [2, 9], was: [1, 2], there: [1, 2], chosen: [1] }, [2]],
  ["nothing, where nothing was", { known: [], was: [1, 2], there: [1, 2], chosen: [1] }, []],
  ["what came back, where it is not known", { known: null, was: [1], there: [1, 4, 5], chosen: [1] }, [4, 5]],
  ["what is chosen now, where nothing came", { known: null, was: [1, 2], there: [1, 2], chosen: [2] }, [2]],
  ["of that only what is there", { known: null, was: [1, 2, 3], there: [1, 2], chosen: [2, 3] }, [2]],
  ["no other choice, where none of it is left", { known: null, was: [1, 2], there: [1], chosen: [2] }, null],
  ["what was known, though something came back, too", { known: [1], was: [1], there: [1, 4], chosen: [] }, [1]],
]) {
  test(`chosen is ${what}`, () => assert.deepEqual(chosenAfter(/** @type {any} */ (clips)), chosen));
}

test("a step is another window's if its number lies among theirs, ends included", () => {
  const others = [[4, 6], [9, 9]];
  assert.deepEqual([3, 4, 5, 6, 7, 8, 9, 10].map((id) => madeElsewhere(id, others)), [false, true, true, true, false, false, true, false]);
  assert.equal(madeElsewhere(null, others), false);
  assert.equal(madeElsewhere(5, []), false);
});
