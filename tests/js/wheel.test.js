import assert from "node:assert/strict";
import { test } from "node:test";

import { wheelWay } from "../../src/jaylantern/web/static/js/plain/wheel.js";

const turn = (values) => ({ deltaX: 0, deltaY: 0, deltaMode: 0, ctrlKey: false, metaKey: false, shiftKey: false, ...values });

for (const [what, values, over_lanes, way] of [
  ["plain over the lanes scrolls as pages do", { deltaY: 100 }, true, null],
  ["plain over the ruler goes sideways", { deltaY: 100 }, false, { across_px: 100 }],
  ["in lines", { deltaY: 3, deltaMode: 1 }, false, { across_px: 48 }],
  ["with Shift sideways", { deltaY: -100, shiftKey: true }, true, { across_px: -100 }],
  ["with Shift where the browser has turned it already", { deltaX: -100, shiftKey: true }, true, { across_px: -100 }],
  ["a wheel that tilts", { deltaX: 30, deltaY: 5 }, true, { across_px: 30 }],
  ["with Ctrl zooms", { deltaY: 100, ctrlKey: true }, true, { zoom: Math.exp(0.16) }],
  ["with Ctrl zooms beside the lanes, too", { deltaY: -100, ctrlKey: true }, false, { zoom: Math.exp(-0.16) }],
  ["on a Mac with Cmd", { deltaY: 100, metaKey: true }, true, { zoom: Math.exp(0.16) }],
  ["a pinch in small steps", { deltaY: -4, ctrlKey: true }, true, { zoom: Math.exp(-0.04) }],
]) {
  test(`the wheel ${what}`, () => assert.deepEqual(wheelWay(turn(values), { over_lanes }), way));
}
