// What a ride of a fader writes: its first level, points where the fader moves, what is heard ahead, where a part ends.

import assert from "node:assert/strict";
import { test } from "node:test";
import * as line from "../../src/jaylantern/web/static/js/plain/ride_line.js";

const S = 48_000;
const points = ({ time_n, gains }) => time_n.map((n, i) => [n, gains[i]]);

test("a part begins at the level the line has there", () => {
  assert.deepEqual(line.begun(10 * S, -4, 500), { time_n: [10 * S], gains: [-4], gain_db: -4, noted_ms: 500 });
});

for (const [what, from_db, fader_db, lane_db, gain_db] of [
  ["the fader stands where the lane has it: the line stays", -4, -6, -6, -4],
  ["3 dB up from there", -4, -3, -6, -1],
  ["3 dB down", -4, -9, -6, -7],
  ["no further up than a line goes", 20, 12, 0, 24],
  ["no further down", -50, -48, 0, -60],
]) {
  test(String(what), () => assert.equal(line.ridden(Number(from_db), Number(fader_db), Number(lane_db)), gain_db));
}

test("a fader that moves leaves a point where it moved from and one where it got to", () => {
  let part = line.begun(0, 0, 0);
  part = line.noted({ ...part, gain_db: -2 }, { now_n: 1000, at_ms: 20 });
  assert.deepEqual(points(part), [[0, 0], [1000, -2]]);
  part = line.noted({ ...part, gain_db: -2 }, { now_n: 2000, at_ms: 40 });
  assert.deepEqual(points(part), [[0, 0], [1000, -2], [2000, -2]]);
  part = line.noted({ ...part, gain_db: -2 }, { now_n: 9000, at_ms: 60 }); // held still: its last point goes along
  assert.deepEqual(points(part), [[0, 0], [1000, -2], [9000, -2]]);
  part = line.noted({ ...part, gain_db: -5 }, { now_n: 9500, at_ms: 80 });
  assert.deepEqual(points(part), [[0, 0], [1000, -2], [9000, -2], [9500, -5]]);
  assert.equal(part.noted_ms, 80);
});

test("what stands still after several moves is two points", () => {
  const moved = { time_n: [0, 1000, 2000, 3000, 4000], gains: [0, -2, -1, -3, -3], gain_db: -3, noted_ms: 0 };
  assert.deepEqual(points(line.noted(moved, { now_n: 9000, at_ms: 5 })), [[0, 0], [1000, -2], [2000, -1], [3000, -3], [9000, -3]]);
});

test("two moves at one moment are one point, the later; after a rest the rest ends a sample before", () => {
  const moved = line.noted({ ...line.begun(100, 0, 0), gain_db: -2 }, { now_n: 100, at_ms: 0 });
  assert.deepEqual(points(moved), [[100, -2]]);
  const rested = { time_n: [0, 1000, 2000], gains: [0, -2, -2], gain_db: -6, noted_ms: 0 };
  assert.deepEqual(points(line.noted(rested, { now_n: 2000, at_ms: 5 })), [[0, 0], [1000, -2], [1999, -2], [2000, -6]]);
  const near = { time_n: [0, 1998, 2000], gains: [0, -2, -2], gain_db: -6, noted_ms: 0 }; // one sample between them
  assert.deepEqual(points(line.noted(near, { now_n: 2000, at_ms: 5 })), [[0, 0], [1998, -2], [1999, -2], [2000, -6]]);
  const short = { time_n: [0, 1999, 2000], gains: [0, -2, -2], gain_db: -6, noted_ms: 0 }; // no sample between them to end it at
  assert.deepEqual(points(line.noted(short, { now_n: 2000, at_ms: 5 })), [[0, 0], [1999, -2], [2000, -6]]);
  const moving = { time_n: [0, 1000, 2000, 3000], gains: [0, -2, -3, -4], gain_db: -6, noted_ms: 0 }; // no rest, and no time either
  assert.deepEqual(points(line.noted(moving, { now_n: 3000, at_ms: 5 })), [[0, 0], [1000, -2], [2000, -3], [3000, -6]]);
});

for (const [what, now, is] of [
  ["as far on as it plays", { now_n: 2 * S, at_ms: 1000 }, false],
  ["a little farther than that", { now_n: 2.5 * S, at_ms: 1000 }, false],
  ["half a second farther and a sample", { now_n: 2.5 * S + 1, at_ms: 1000 }, true],
  ["as far as it plays at double speed", { now_n: 3 * S, at_ms: 1000, rate: 2 }, false],
  ["at half speed it may have been at one before", { now_n: 2 * S, at_ms: 1000, rate: 0.5 }, false],
  ["back by a sample", { now_n: S - 1, at_ms: 1000 }, true],
  ["nowhere", { now_n: S, at_ms: 1000 }, false],
]) {
  test(`the playhead has gone on ${what}: ${is ? "a jump" : "no jump"}`, () => {
    const held = { ...line.begun(S, 0, 500), time_n: [0, S / 2, S] };
    const { at_ms, ...rest } = /** @type {any} */ (now);
    assert.equal(line.jumped(held, { rate: 1, ...rest, at_ms: at_ms + 500 }), is);
  });
}

test("while it is held the fader is taken to stay where it is for two seconds", () => {
  const part = { time_n: [0, 9, S], gains: [0, 0, -3], gain_db: -5, noted_ms: 0 };
  assert.deepEqual(points(line.ahead(part)), [[0, 0], [9, 0], [S, -3], [3 * S, -5]]);
  assert.deepEqual(points(part), [[0, 0], [9, 0], [S, -3]]);
});

test("a ride of less than a fiftieth of a second writes nothing", () => {
  assert.equal(line.long({ ...line.begun(0, 0, 0), time_n: [5, 9, 5 + S / 50 - 1] }), false);
  assert.equal(line.long({ ...line.begun(0, 0, 0), time_n: [5, 9, 5 + S / 50] }), true);
});
