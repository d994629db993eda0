// How one generation of windows follows another: which is heard, what is left out of one that came late, the crossfade.

import assert from "node:assert/strict";
import { test } from "node:test";
import * as turn from "../../src/jaylantern/web/static/js/plain/generations.js";
import { near } from "./near.js";

const S = 48_000;
const part = (at, start_n, more = {}) => ({ at, end: at + 1, start_n, stop_n: start_n + S, rate: 1, ...more });

test("a moment goes on to the next sample; one on a sample stays, whatever its rounding", () => {
  near(turn.onSample(1 + 0.4 / S) * S, S + 1, 1e-6);
  near(turn.onSample(1) * S, S, 1e-6);
  near(turn.onSample(1 + 1e-12) * S, S, 1e-6);
  near(turn.onSample(1 / 3) * S, S / 3, 1e-6);
});

test("what is heard is the window that began last; none before the first", () => {
  const [old, next, fresh] = [part(0, 0), part(1, S), part(1.4, 10 * S)];
  for (const [at, heard] of [[-0.1, null], [0, old], [0.99, old], [1, next], [1.39, next], [1.4, fresh], [3, fresh]]) {
    assert.equal(turn.heardOf([old, next, fresh], at), heard, String(at));
  }
  const same = [part(0, 0), part(0, 5 * S)];
  assert.equal(turn.heardOf(same, 0), same[1]); // of two that begin together the newer
});

test("a new generation begins where the old one will be; before the old has begun at its beginning", () => {
  const parts = [part(2, 10 * S), part(3, 11 * S)];
  for (const [at, place_n] of [[2.5, 10.5 * S], [3, 11 * S], [3.25, 11.25 * S], [1, 10 * S], [9, 12 * S]]) {
    assert.equal(turn.goesOnAt(parts, at, 7), place_n, String(at));
  }
  assert.equal(turn.goesOnAt([part(2, 10 * S, { rate: -2 })], 2.25, 7), 11 * S - S / 2); // back, twice as fast
  assert.equal(turn.goesOnAt([part(2, 10 * S), part(3, 50 * S)], 3, 7), 50 * S); // the newer one, where it begins
  assert.equal(turn.goesOnAt([], 2, 7), 7);
});

for (const [what, how, wanted] of [
  ["in time", { now: 1.98 }, { next_at: 2, skip_n: 0, heard: false }],
  ["just in time for the clock", { now: 1.985 }, { next_at: 2, skip_n: 0, heard: false }],
  ["late, with nothing heard meanwhile: it begins later", { now: 2.085 }, { next_at: 2.1, skip_n: 0, heard: false }],
  ["late, taking over: what has been heard is left out", { now: 2.085 - 0.25 / S, over: true }, { next_at: 2.1, skip_n: 4800, heard: false }],
  ["the same at double speed: twice as much of it", { now: 2.085 - 0.25 / S, over: true, rate: 2 }, { next_at: 2.1, skip_n: 9600, heard: false }],
  ["the same back", { now: 2.085 - 0.25 / S, over: true, rate: -2 }, { next_at: 2.1, skip_n: 9600, heard: false }],
  ["later than it is long: all of it has been heard", { now: 4, over: true }, { next_at: 3, skip_n: S, heard: true }],
  ["exactly as late as it is long", { now: 2.985 - 0.5 / S, over: true }, { next_at: 3, skip_n: S, heard: true }],
  ["a sample less", { now: 2.985 - 1.5 / S, over: true }, { next_at: 3 - 1 / S, skip_n: S - 1, heard: false }],
]) {
  test(`a window that is ${what}`, () => {
    const found = turn.late({ next_at: 2, count_n: S, rate: 1, over: false, now: 0, .../** @type {any} */ (how) });
    const { next_at, ...rest } = /** @type {any} */ (wanted);
    near(found.next_at * S, next_at * S, 0.01);
    assert.deepEqual({ skip_n: found.skip_n, heard: found.heard }, rest);
  });
}

test("a generation comes by a short line where another goes by one, and at once where nothing was heard", () => {
  assert.deepEqual(turn.fadedIn(3, 0.5, true), [[3, 0], [3.012, 0.5]]);
  assert.deepEqual(turn.fadedIn(3, 0.5, false), [[3, 0.5]]);
  assert.deepEqual(turn.fadedOut(3, 0.5), [[3, 0.5], [3.012, 0]]);
});

test("at every moment of a crossfade between equal levels the sum is that level", () => {
  const at = (course, time) => course[0][1] + ((course[1][1] - course[0][1]) * (time - course[0][0])) / (course[1][0] - course[0][0]);
  for (const time of [3, 3.003, 3.006, 3.012]) near(at(turn.fadedIn(3, 0.8, true), time) + at(turn.fadedOut(3, 0.8), time), 0.8);
});

test("of the old generation there remains what was heard before the new one took over", () => {
  const found = turn.heardBefore([part(0, 0), part(1, S), part(2, 2 * S)], 1.5);
  assert.deepEqual(found.map(({ at, end }) => [at, end]), [[0, 1], [1, 1.5]]);
  assert.deepEqual(turn.heardBefore([part(1.5, 0)], 1.5), []);
});

for (const [what, still_n, how, begins_n] of [
  ["where it stands", 5 * S, {}, 5 * S],
  ["a little before a place that was gone to", 5 * S, { lead: { at_n: 5 * S, from_n: 4 * S } }, 4 * S],
  ["where it stands, if it was moved since", 6 * S, { lead: { at_n: 5 * S, from_n: 4 * S } }, 6 * S],
  ["exactly there at another speed", 5 * S, { lead: { at_n: 5 * S, from_n: 4 * S }, rate: 2 }, 5 * S],
  ["at the beginning, from the end", 20 * S, {}, 0],
  ["at the beginning, from beyond the end", 21 * S, {}, 0],
  ["at the end, going back", 20 * S, { rate: -1 }, 20 * S],
  ["just before the end", 20 * S - 1, {}, 20 * S - 1],
]) {
  test(`playing begins ${what}`, () => assert.equal(turn.beginsAt(Number(still_n), { length_n: 20 * S, rate: 1, lead: null, .../** @type {any} */ (how) }), begins_n));
}

test("a loop holds its beginning and not its end", () => {
  assert.deepEqual([99, 100, 199, 200].map((n) => turn.inLoop(n, [100, 200])), [false, true, true, false]);
});
