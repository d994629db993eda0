// Loudness over time, under the lanes: short-term loudness with the target band, and from above what the limiter takes.

import { fitted } from "../ground/canvas.js";
import { strokeEdged } from "../ground/curve_drawing.js";
import { BY_TAG, FIGURES, NIGHT } from "../plain/look.js";

const HEIGHT = 58;
const ABOVE_LU = 9; // how far over the target the picture reaches at least
const BELOW_LU = 21;
const LIMITER_DB = 12; // as much reduction as fills the picture
const BRICK = "#F0806A";

export class LoudnessStrip {
  constructor(element, { timeline }) {
    this._row = element;
    this._canvas = element.querySelector("canvas");
    this._timeline = timeline;
    this._drawn = null;
  }

  /** @param {{step_n: number, lufs: (number|null)[], reduction_db: number[], target_lufs: number, tolerance_lu: number} | null} drawn */
  show(drawn) {
    this._drawn = drawn;
    this._loudest = drawn ? (loudest(drawn.lufs, 0, drawn.lufs.length) ?? -90) : -90;
    if (this._row.hidden === Boolean(drawn)) {
      this._row.hidden = !drawn;
      this._timeline.refit();
    }
    this._timeline.draw();
  }

  draw() {
    if (!this._drawn) return;
    const { view } = this._timeline;
    const { lufs, reduction_db, step_n, target_lufs, tolerance_lu } = this._drawn;
    const context = fitted(this._canvas, view.width, HEIGHT);
    const top = Math.max(target_lufs + ABOVE_LU, this._loudest + 2);
    const y = (value) => ((top - Math.max(value, target_lufs - BELOW_LU)) / (top - target_lufs + BELOW_LU)) * HEIGHT;
    context.fillStyle = BY_TAG.atmosphere;
    context.globalAlpha = 0.32;
    context.fillRect(0, y(target_lufs + tolerance_lu), view.width, y(target_lufs - tolerance_lu) - y(target_lufs + tolerance_lu));
    context.globalAlpha = 1;
    this._line(context, { values: lufs, step_n, y });
    context.fillStyle = BRICK;
    eachColumn(view, reduction_db.length, step_n, (x, first, last) => {
      let most = 0;
      for (let i = first; i < last; i += 1) most = Math.max(most, reduction_db[i]);
      if (most > 0) context.fillRect(x, 0, 1, Math.max(2, (Math.min(most, LIMITER_DB) / LIMITER_DB) * HEIGHT));
    });
    context.fillStyle = NIGHT.soft;
    context.font = FIGURES;
    context.fillText(`${String(target_lufs).replace("-", "−")}`, 3, y(target_lufs) + 3);
  }

  _line(context, { values, step_n, y }) {
    const { view } = this._timeline;
    context.beginPath();
    let pen = false;
    eachColumn(view, values.length, step_n, (x, first, last) => {
      const value = loudest(values, first, last);
      if (value !== null) context[pen ? "lineTo" : "moveTo"](x + 0.5, y(value));
      pen = value !== null;
    });
    strokeEdged(context, 1.5);
  }
}

function loudest(values, first, last) {
  let most = null;
  for (let i = first; i < last; i += 1) if (values[i] !== null && (most === null || values[i] > most)) most = values[i];
  return most;
}

/** Every column of the view with the steps that lie in it; zoomed in, a step has many columns. */
function eachColumn(view, count, step_n, work) {
  for (let x = 0; x < view.width; x += 1) {
    const first = Math.max(0, Math.floor(view.time(x) / step_n));
    const last = Math.min(count, Math.max(first + 1, Math.ceil(view.time(x + 1) / step_n)));
    if (first < last && view.time(x + 1) > 0) work(x, first, last);
  }
}
