// What is typed into a field is understood in the field's unit, or refused. Conversions are definitions: 20·log10 of an
// amplitude ratio, 1000 ms to the second; timecode counts whole frames (SMPTE ST 12-1, non-drop, from memory).

import assert from "node:assert/strict";
import { test } from "node:test";
import { typed, understood } from "../../src/jaylantern/web/static/js/plain/typed.js";
import { near } from "./near.js";

const FRAME_25 = 1 / 25;
const FRAME_2997 = 1001 / 30000;

const UNDERSTOOD = [
  ["350", "ms", 350], ["1 s", "ms", 1000], ["0.5s", "ms", 500], ["0,5 s", "ms", 500], ["350 ms", "ms", 350],
  ["12 frames", "ms", 480], ["12f", "ms", 480], ["1 min", "ms", 60_000], ["−120", "ms", -120], ["-120 ms", "ms", -120],
  ["250 ms", "s", 0.25], ["2", "s", 2], ["00:01.5", "s", 1.5], ["01:02:03", "s", 3723], ["00:00:02:12", "s", 2.48],
  ["−6", "dB", -6], ["50 %", "dB", -6.0206], ["100%", "dB", 0], ["-6 dB", "dB", -6], ["0 %", "dB", -90],
  ["70", "%", 70], ["−6 dB", "%", 50.1187], ["-16 LUFS", "LUFS", -16], ["-1 dB", "dBTP", -1], ["4 kHz", "Hz", 4000],
  ["4:1", ":1", 4], ["4", ":1", 4], ["62", "", 62], [" 62 ", "", 62],
];
const REFUSED = [
  ["1 s", "dB"], ["1 Hz", "ms"], ["-6 dB", "ms"], ["50 %", "ms"], ["12 frames", "dB"], ["1 s", ""], ["abc", "ms"], ["", "ms"],
  ["1 2", "ms"], ["1.2.3", "ms"], ["00:61", "s"], ["00:00:00:25", "s"], ["-16 dB", "LUFS"], ["5 LUFS", "dB"], ["NaN", "dB"],
  ["1e3", "ms"], ["--5", "ms"], ["5 parsecs", "ms"], ["Infinity", "ms"], ["1:2:3:4:5", "s"],
];

for (const [text, unit, value] of UNDERSTOOD) {
  test(`${text} in a field of ${unit || "no unit"} is ${value}`, () => near(typed(text, unit, FRAME_25), value, 1e-3));
}

for (const [text, unit] of REFUSED) {
  test(`"${text}" in a field of ${unit || "no unit"} is refused`, () => assert.ok(Number.isNaN(typed(text, unit, FRAME_25))));
}

test("frames are those of the film", () => {
  near(typed("30 frames", "s", FRAME_2997), 1.001);
  near(typed("00:00:01:00", "s", FRAME_2997), 1.001);
});

test("a refusal names what the field understands", () => {
  assert.match(understood("ms"), /500 ms/);
  assert.match(understood("dB"), /50 %/);
  assert.equal(understood("LUFS"), "a number of LUFS");
  assert.equal(understood(""), "a bare number");
});
