// What stands for what has not come yet, and what lies beyond the sound: known pyramids, known columns.
import assert from "node:assert/strict";
import { test } from "node:test";
import { setImmediate as aMoment } from "node:timers/promises";

import { Peaks } from "../../src/jaylantern/web/static/js/plain/peaks.js";
import { near } from "./near.js";

const BASE_N = 128;

/** Peaks of a sound whose finest level is silent but for one pair, at `at`; how many pairs were asked for at a time. */
function silent(count, at = -1, loud = 20_000) {
  const levels = [{ count, at }];
  while (levels.at(-1).count > 1) levels.push({ count: Math.ceil(levels.at(-1).count / 2), at: Math.floor(levels.at(-1).at / 2) });
  const total = levels.reduce((sum, level) => sum + level.count, 0);
  const file = new Int16Array(2 * total);
  let start = 0;
  for (const level of levels) {
    if (at >= 0) file[2 * (start + level.at) + 1] = loud;
    start += level.count;
  }
  const asked = [];
  let arrived = 0;
  const fetchPairs = async (from, wanted) => {
    asked.push(wanted);
    return file.subarray(2 * from, 2 * (from + wanted));
  };
  const peaks = new Peaks(levels.map((level) => level.count), BASE_N, fetchPairs, () => (arrived += 1));
  return { peaks, asked, arrived: () => arrived, total };
}

const highs = (columns) => [...columns].filter((_, i) => i % 2);

test("a long sound is coarse at first, and exact when the pieces that are looked at have come", async () => {
  const { peaks, asked, arrived, total } = silent(150_000, 140_000);
  await peaks.loadCoarse();
  assert.equal(asked.length, 1);
  assert.ok(asked[0] < total / 2); // not the whole pyramid
  const early = highs(peaks.columns(BASE_N * 139_990, BASE_N, 20));
  peaks.columns(0, BASE_N, 4);
  await aMoment();
  const late = highs(peaks.columns(BASE_N * 139_990, BASE_N, 20));
  assert.equal(arrived(), 2); // two pieces, of three
  near(early[10], 20_000 / 32767); // wider than it is
  assert.ok(early.filter((high) => high > 0).length > 1);
  near(late[10], 20_000 / 32767);
  assert.equal(late.filter((high) => high > 0).length, 1);
});

test("a column takes in all it touches, at whatever level it is read", async () => {
  const { peaks } = silent(150_000, 140_000);
  await peaks.loadCoarse();
  for (const [from, n_per_px, wanted] of [[139_999, 1.5, [1, 1, 0]], [140_001, 1.5, [0, 0, 0]], [139_998, 2, [0, 1, 0]]]) {
    const read = () => highs(peaks.columns(BASE_N * from, BASE_N * n_per_px, 3)).map((high) => Math.sign(high));
    read();
    await aMoment();
    assert.deepEqual(read(), wanted);
  }
});

test("beyond the sound there is nothing", async () => {
  const { peaks } = silent(10, 9, 1000);
  await peaks.loadCoarse();
  assert.deepEqual(highs(peaks.columns(BASE_N * 9, BASE_N, 4)).slice(1), [0, 0, 0]);
  near(highs(peaks.columns(BASE_N * 9, BASE_N, 4))[0], 1000 / 32767);
  assert.deepEqual([...peaks.columns(-BASE_N * 2, BASE_N, 2)], [0, 0, 0, 0]);
});
