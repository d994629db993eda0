// Which part of the timeline is in view.

import assert from "node:assert/strict";
import { test } from "node:test";
import { Viewport, rulerStep } from "../../src/jaylantern/web/static/js/plain/viewport.js";
import { near } from "./near.js";

const S = 48_000;

function shown(length_s = 100, width = 1000) {
  const view = new Viewport();
  view.resize(width, length_s * S);
  return view;
}

test("all of a film is in view at first, and stays so while it grows and the page is resized", () => {
  const view = shown();
  assert.equal(view.start_n, 0);
  near(view.stop_n / S, 100.2);
  view.resize(500, 200 * S);
  near(view.stop_n / S, 200.4);
});

test("an empty film shows ten seconds", () => near(shown(0).stop_n / S, 10.02));

test("positions and times turn into each other", () => {
  const view = shown();
  near(view.time(view.x(12_345)), 12_345);
});

test("zooming leaves the time under the pointer where it is", () => {
  const view = shown();
  const time_n = view.time(300);
  view.zoom(0.5, 300);
  near(view.time(300), time_n, 1e-3);
  assert.equal(view.fitted, false);
});

test("it goes no closer than 48 samples a pixel and no farther than 1.12 of the film", () => {
  const view = shown();
  for (let i = 0; i < 100; i += 1) view.zoom(0.5, 0);
  assert.equal(view.n_per_px, 48);
  for (let i = 0; i < 100; i += 1) view.zoom(2, 0);
  near((view.n_per_px * 1000) / S, 112);
});

test("it scrolls neither before the start nor past 1.12 of the film", () => {
  const view = shown();
  view.zoom(0.1, 0);
  view.scroll(-500);
  assert.equal(view.start_n, 0);
  view.scroll(1e9);
  near(view.stop_n / S, 112, 1e-3);
});

test("what is out of view is brought in with some room before it; what is in view moves nothing", () => {
  const view = shown();
  view.zoom(0.1, 0);
  assert.equal(view.reveal(5 * S), false);
  assert.equal(view.reveal(60 * S), true);
  near(view.x(60 * S), 150, 1e-6);
});

test("a part is shown with a twentieth of room on each side", () => {
  const view = shown();
  view.show(20 * S, 40 * S);
  near(view.start_n / S, 19);
  near(view.stop_n / S, 41);
});

for (const [n_per_px, step] of [[48, 0.1], [480, 1], [4800, 10], [48_000, 120], [4_800_000, 3600]]) {
  test(`words of the ruler at ${n_per_px} samples a pixel stand ${step} s apart`, () => assert.equal(rulerStep(n_per_px, S), step));
}
