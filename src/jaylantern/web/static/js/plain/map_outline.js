// Pure: what the strip of the whole film shows, in CSS pixels from its left; times are samples.

import { gainAt } from "./curve.js";
import { amplitude } from "./units.js";

const GLOW_PX = 2; // width of a column of glow

/** @typedef {{width: number, length_n: number, start_n: number, stop_n: number}} View of the timeline; the strip is as wide, and as long as the whole */

const x = ({ width, length_n }, time_n) => (time_n / length_n) * width;

/** The time under a place of the strip. @param {View} view */
export const timeUnder = (view, at_px) => (at_px / view.width) * view.length_n;

/** The passages, [left, width]: none narrower than a pixel. @param {View} view @param {{start_n: number, stop_n: number}[]} passages */
export const passageSpans = (view, passages) => passages.map(({ start_n, stop_n }) => [x(view, start_n), Math.max(1, x(view, stop_n) - x(view, start_n))]);

/** Where the markers stand. @param {View} view @param {{time_n: number}[]} markers */
export const markerPlaces = (view, markers) => markers.map(({ time_n }) => x(view, time_n));

/** The outline of what is in view, [left, right], drawn half a pixel within the strip. @param {View} view */
export function viewSpan(view) {
  const left = Math.max(0.5, x(view, view.start_n) + 0.5);
  return [left, Math.min(x(view, view.stop_n), view.width - 0.5)];
}

/** The glow of the music as columns, [left, 0 to 1], to the end of the film. @param {View} view @param {import("./curve.js").Curve} curve */
export function glow(view, curve, length_n) {
  const columns = [];
  const right = x(view, length_n);
  for (let at = 0; at < right; at += GLOW_PX) columns.push([at, amplitude(gainAt(curve, timeUnder(view, at)))]);
  return columns;
}
