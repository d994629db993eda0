// What stands for what has not come yet, and what lies beyond the sound: known pyramids, known columns.
import assert from "node:assert/strict";
import { test } from "node:test";
import { setImmediate as aMoment } from "node:timers/promises";

import { Peaks } from "../../src/jaylantern/web/static/js/plain/peaks.js";
import { near } from "./near.js";

const BASE_N = 128;

/** Peaks of a sound whose finest level is silent but for one pair, at `at`; how many pairs were asked for at a time. */
function silent(count, at, loud = 20_000) {
  const levels = [{ count, at }];
  while (levels.at(-1).count > 1) levels.push({ count: Math.ceil(levels.at(-1).count / 2), at: Math.floor(levels.at(-1).at / 2) });
  const file = new Int16Array(2 * levels.reduce((sum, level) => sum + level.count, 0));
  let start = 0;
  for (const level of levels) {
    file.set([-loud, loud], 2 * (start + level.at));
    start += level.count;
  }
  const asked = [];
  let arrived = 0;
  const fetchPairs = async (from, wanted) => {
    asked.push([from, wanted]);
    return file.subarray(2 * from, 2 * (from + wanted));
  };
  return { peaks: new Peaks(levels.map((level) => level.count), BASE_N, fetchPairs, () => (arrived += 1)), asked, arrived: () => arrived };
}

/** Which of these columns are loud: 1, each low as its high. */
function loud(columns) {
  const found = [...columns].map(Math.sign);
  const highs = found.filter((_, i) => i % 2);
  assert.deepEqual(highs, found.filter((_, i) => i % 2 === 0).map((low) => (low ? -low : 0)));
  return highs;
}

test("before anything has come there is nothing", () => assert.deepEqual(loud(silent(10, 0).peaks.columns(0, BASE_N, 3)), [0, 0, 0]));

test("a long sound is coarse at first, and exact when the pieces that are looked at have come", async () => {
  const { peaks, asked, arrived } = silent(100_000, 90_000);
  await peaks.loadCoarse();
  assert.deepEqual(asked, [[100_000, 100_006]]); // all but the finest, in one go: 50 000 + 25 000 + 12 500 + … + 4 + 2 + 1
  const read = () => loud(peaks.columns(BASE_N * 89_998, BASE_N, 6));
  assert.deepEqual(read(), [0, 0, 1, 1, 0, 0]); // the next coarser level stands in
  peaks.columns(0, BASE_N, 4);
  await aMoment();
  assert.deepEqual(read(), [0, 0, 1, 0, 0, 0]);
  near(peaks.columns(BASE_N * 90_000, BASE_N, 1)[1], 20_000 / 32767);
  assert.deepEqual(asked.slice(1), [[65_536, 34_464], [0, 65_536]]); // two pieces, each once
  assert.equal(arrived(), 2);
});

test("a column takes in all it touches, at whatever level it is read", async () => {
  const { peaks } = silent(150_000, 140_000);
  await peaks.loadCoarse();
  for (const [from, n_per_px, wanted] of [[139_999, 1.5, [1, 1, 0]], [140_001, 1.5, [0, 0, 0]], [139_998, 2, [0, 1, 0]], [140_000, 0.5, [1, 1, 0]]]) {
    const read = () => loud(peaks.columns(BASE_N * from, BASE_N * n_per_px, 3));
    read();
    await aMoment();
    assert.deepEqual(read(), wanted);
  }
});

test("at both ends there is all there is, and beyond them nothing", async () => {
  for (const [at, from, wanted] of [[0, -2, [0, 0, 1, 0]], [9, 8, [0, 1, 0, 0]]]) {
    const { peaks } = silent(10, at);
    await peaks.loadCoarse();
    assert.deepEqual(loud(peaks.columns(BASE_N * from, BASE_N, 4)), wanted);
  }
});
