// Where frames of the picture begin, and cuts that keep to them. 29.97 is 30000/1001 frames a second (SMPTE ST 12-1, from memory).

import assert from "node:assert/strict";
import { test } from "node:test";
import { betweenFrames, framedCut, nearestFrame, stepFrame } from "../../src/jaylantern/web/static/js/frames.js";

const FRAME_2997 = (48_000 * 1001) / 30_000; // 1601.6 samples

for (const [time_n, nearest] of [[0, 0], [800, 0], [801, 1602], [1602, 1602], [160_160 * 3 + 10, 480_480]]) {
  test(`the frame nearest to sample ${time_n} at 29.97`, () => assert.equal(nearestFrame(time_n, FRAME_2997), nearest));
}

test("a hundred steps of a frame are a hundred frames", () => {
  let at = 0;
  for (let i = 0; i < 100; i += 1) at = stepFrame(at, FRAME_2997, 1);
  assert.equal(at, Math.round(100 * FRAME_2997));
});

test("a step from between two frames goes to the next one or the one before, never under nothing", () => {
  assert.equal(stepFrame(2000, 1920, 1), 3840);
  assert.equal(stepFrame(2000, 1920, -1), 1920);
  assert.equal(stepFrame(0, 1920, -1), 0);
});

test("a cut keeps to the frames of the picture it goes through", () => {
  const clip = { start_n: 1000, offset_n: 48_000, length_n: 96_000, fps: 25 }; // frame 25 of the file is at 1000
  assert.equal(framedCut([clip], 1000 + 1920 * 3 + 700), 1000 + 1920 * 3);
  assert.equal(framedCut([clip], 200_000), 200_000);
  assert.equal(framedCut([], 777), 777);
  assert.equal(betweenFrames([clip], 1000 + 1920 * 3 + 700), true);
  assert.equal(betweenFrames([clip], 1000 + 1920), false);
});
