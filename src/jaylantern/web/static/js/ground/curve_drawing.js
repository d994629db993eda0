// Drawing a gain curve: a line with a dark edge; where it has more points than there are pixels, the band it moves in.

import { columnsWithin, countWithin, pointsWithin } from "../plain/curve.js";
import { NIGHT } from "../plain/look.js";

const DENSE = 1.5; // points a pixel from which a band says more than a line

/**
 * Draw the stretch [from, to) of a curve into a view; `y` answers the height of a gain in dB.
 * @param {CanvasRenderingContext2D} context
 * @param {{view: any, curve: import("../plain/curve.js").Curve, from: number, to: number, y: (db: number) => number, width?: number}} stroke
 */
export function strokeCurve(context, { view, curve, from, to, y, width = 1.75 }) {
  const count = Math.max(1, Math.round((to - from) / view.n_per_px));
  const band = countWithin(curve, from, to) > DENSE * count;
  const line = band ? bandAndMiddle(context, { view, curve, from, count, y }) : pointsWithin(curve, from, to).map(([n, db]) => [view.x(n), y(db)]);
  context.lineJoin = "round";
  context.beginPath();
  line.forEach(([x, level], i) => context[i ? "lineTo" : "moveTo"](x, level));
  strokeEdged(context, width);
}

/** Stroke the present path light, with a dark edge. */
export function strokeEdged(context, width) {
  for (const [style, thick] of [["rgba(20,28,39,.8)", width + 2.5], [NIGHT.ink, width]]) {
    context.strokeStyle = style;
    context.lineWidth = thick;
    context.stroke();
  }
}

/** Fill the band between the highest and the lowest gain; answers the line in its middle. */
function bandAndMiddle(context, { view, curve, from, count, y }) {
  const { high, low, mean } = columnsWithin(curve, from, view.n_per_px, count);
  const left = view.x(from);
  context.fillStyle = "rgba(247,243,234,.26)";
  context.beginPath();
  for (let k = 0; k < count; k += 1) context.lineTo(left + k, y(high[k]));
  for (let k = count - 1; k >= 0; k -= 1) context.lineTo(left + k, y(low[k]));
  context.closePath();
  context.fill();
  return Array.from(mean, (db, k) => [left + k + 0.5, y(db)]);
}
