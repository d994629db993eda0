// Presses of a key that follow each other closely are one step of the history.

import assert from "node:assert/strict";
import { test } from "node:test";
import { KeyRun } from "../../src/jaylantern/web/static/js/ground/gesture.js";

test("presses that follow closely and do the same are one gesture", () => {
  let now = 0;
  const run = new KeyRun(() => now);
  const names = [[0, "a"], [500, "a"], [1100, "a"], [1300, "a"], [10, "b"], [10, "b"]].map(([wait, what]) => {
    now += Number(wait);
    return run.of(String(what));
  });
  run.end();
  names.push(run.of("b"));
  const [one, two, three, four, five, six, seven] = names;
  assert.equal(one, two);
  assert.equal(two, three);
  assert.notEqual(three, four);
  assert.notEqual(four, five);
  assert.equal(five, six);
  assert.notEqual(six, seven);
});
