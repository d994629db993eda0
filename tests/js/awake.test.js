// How often work of every frame is done: known frames and rests, known counts.
import assert from "node:assert/strict";
import { test } from "node:test";

import { Awake } from "../../src/jaylantern/web/static/js/ground/awake.js";

/** A clock whose frames are counted and rests kept until they are let go. */
function clocked() {
  const clock = { frame: null, rest: null, waited: [] };
  const awake = new Awake({
    ask: (work) => (clock.frame = work),
    later: (work, ms) => {
      clock.waited.push(ms);
      clock.rest = work;
      return work;
    },
    forget: (work) => {
      if (work && clock.rest === work) clock.rest = null;
    },
  });
  /** Show frames until none is asked for; how many there were. */
  const run = (most = 1000) => {
    let shown = 0;
    for (; clock.frame && shown < most; shown++) {
      const work = clock.frame;
      clock.frame = null;
      work();
    }
    return shown;
  };
  return { awake, clock, run };
}

test("what stands still is looked at for six frames, then ten times a second", () => {
  const { awake, clock, run } = clocked();
  let looked = 0;
  awake.add(() => {
    looked += 1;
  });
  assert.equal(run(), 6);
  assert.deepEqual(clock.waited, [100]);
  clock.rest();
  assert.equal(run(), 1);
  assert.equal(looked, 7);
});

test("what moves is drawn every frame, and so is what follows it", () => {
  const { awake, run } = clocked();
  let left = 300;
  awake.add(() => left-- > 0);
  assert.equal(run(), 306);
});

test("one that moves keeps all awake, and whoever comes to it wakes it at once", () => {
  const { awake, clock, run } = clocked();
  const counts = [0, 0];
  let left = 10;
  awake.add(() => {
    counts[0] += 1;
    return left-- > 0;
  });
  awake.add(() => {
    counts[1] += 1;
  });
  assert.equal(run(), 16);
  assert.deepEqual(counts, [16, 16]);
  assert.ok(clock.rest);
  awake.wake();
  awake.wake();
  assert.equal(clock.rest, null);
  assert.equal(run(), 6);
});

test("what is ended is not done again", () => {
  const { awake, run } = clocked();
  let looked = 0;
  const end = awake.add(() => {
    looked += 1;
  });
  run(5);
  end();
  assert.equal(run(), 1);
  assert.equal(looked, 5);
});
