// The course of fades for drawing: half way up, straight is 0.5 (−6 dB), round sin 45° = 0.7071 (−3 dB, equal power), eased 0.5,
// late (√1000 − 1)/999 = 0.03065. Formulas as in the core's fades.

import { test } from "node:test";
import { fadeAt } from "../../src/jaylantern/web/static/js/plain/fades.js";
import { near } from "./near.js";

const clip = (values) => ({ start_n: 1000, length_n: 10_000, heard_in_n: 0, heard_out_n: 0, fade_in_shape: "straight", fade_out_shape: "straight", ...values });

for (const [shape, half] of [["straight", 0.5], ["round", 0.70711], ["eased", 0.5], ["late", 0.03065]]) {
  test(`${shape}, half way in and half way out`, () => {
    near(fadeAt(clip({ heard_in_n: 2000, fade_in_shape: shape }), 2000), half, 1e-5);
    near(fadeAt(clip({ heard_out_n: 2000, fade_out_shape: shape }), 10_000), half, 1e-5);
  });
}

test("a clip without fades is at full from its start to its end; before it a fade is at nothing", () => {
  near(fadeAt(clip({}), 1000), 1);
  near(fadeAt(clip({}), 10_999), 1);
  near(fadeAt(clip({ heard_in_n: 2000 }), 900), 0);
});

test("fades that overlap are both heard", () => {
  near(fadeAt(clip({ heard_in_n: 10_000, heard_out_n: 10_000 }), 6000), 0.25);
});
