// Where frames of the picture begin, and cuts that keep to them. 29.97 is 30000/1001 frames a second (SMPTE ST 12-1, from memory).

import assert from "node:assert/strict";
import { test } from "node:test";
import { betweenFrames, framedCut, nearestFrame, stepFrame, stepOnScreen } from "../../src/jaylantern/web/static/js/plain/frames.js";

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

const LANES = [
  { kind: "sound", clips: [{ media_id: 9, start_n: 0, offset_n: 0, length_n: 99_999 }] },
  { kind: "picture", clips: [{ media_id: 1, start_n: 1000, offset_n: 960, length_n: 9600 }] }, // 25 fps, begun half a frame late
  { kind: "picture", clips: [{ media_id: 2, start_n: 0, offset_n: 0, length_n: 48_000 }] }, // 50 fps, beneath
];
const FPS = { 1: 25, 2: 50 };

for (const [what, time_n, way, to_n] of [
  ["over the film beneath: its own frames", 1960, 1, 3880],
  ["back over it", 3880, -1, 1960],
  ["back to where it begins, though a frame of it begins before", 1960, -1, 1000],
  ["back from its beginning: a frame of what is shown before", 1000, -1, 960],
  ["on from before it: no further than to the next frame", 0, 1, 960],
  ["on past its end: its end", 9640, 1, 10_600],
  ["on from its end: frames of what is shown there", 10_600, 1, 11_520],
  ["beyond all: frames of the project", 50_000, 1, 50_050],
]) {
  test(`a step of a frame ${what}`, () => assert.equal(stepOnScreen(LANES, { time_n, way, frame_n: 1001, fps: (id) => FPS[id] ?? null }), to_n));
}
