// The ruler over the lanes: times, the in and out points, markers as flags that can be dragged; a press puts the playhead there.

import { fitted } from "../ground/canvas.js";
import { FIGURES, LAMP, NIGHT, WORDS } from "../plain/look.js";
import { saying } from "../ground/said.js";
import { RATE, clock } from "../plain/units.js";
import { rulerStep } from "../plain/viewport.js";
import { markerWords } from "../plain/words.js";

const HEIGHT = 22;
const FLAG_PX = 7; // how near a flag the pointer takes it
const MOST_NAME_PX = 110;
const CREAM = "#E9E1CF";

export class Ruler {
  /** @param {HTMLCanvasElement} canvas @param {{timeline: import("./timeline.js").Timeline, pageDoc: any, gestures: any}} pieces */
  constructor(canvas, { timeline, pageDoc, gestures }) {
    this.canvas = canvas;
    this._timeline = timeline;
    this._pageDoc = pageDoc;
    this._gestures = gestures;
    canvas.addEventListener("pointerdown", (event) => this._press(event));
    canvas.addEventListener("pointermove", (event) => this._hover(event));
  }

  get _view() {
    return this._timeline.view;
  }

  /** Where a pointer is, in pixels from the left edge of the lanes. */
  x(event) {
    return event.clientX - this.canvas.getBoundingClientRect().left;
  }

  // — what the mouse does —

  _flagAt(event) {
    const x = this.x(event);
    return this._pageDoc.doc.markers.findLast((marker) => Math.abs(this._view.x(marker.time_n) - x) <= FLAG_PX) ?? null;
  }

  /** The point of in and out under the pointer, if any: "in" or "out". */
  _endAt(event) {
    const { in_n, out_n } = this._pageDoc.doc;
    const x = this.x(event);
    const near = (time_n) => time_n !== null && Math.abs(this._view.x(time_n) - x) <= FLAG_PX;
    return near(out_n) ? "out" : near(in_n) ? "in" : null;
  }

  _hover(event) {
    if (event.buttons || !this._pageDoc.doc) return;
    const marker = this._flagAt(event);
    const end = marker ? null : this._endAt(event);
    this.canvas.title = marker ? `${markerWords(marker)}\nDrag to move it` : end ? `The ${end} point\nDrag to move it` : "";
    this.canvas.classList.toggle("over-flag", Boolean(marker ?? end));
  }

  _press(event) {
    if (event.button !== 0) return;
    const marker = this._flagAt(event);
    const end = marker ? null : this._endAt(event);
    if (marker) {
      this._dragMarker(event, marker);
      return;
    }
    if (end) {
      this._dragEnd(event, end);
      return;
    }
    const seek = (at) => this._timeline.seekTo(this._view.time(this.x(at)));
    seek(event);
    this._gestures.follow(event, { move: seek });
  }

  _dragMarker(event, marker) {
    const timeline = this._timeline;
    const from = event.clientX;
    let at_n = marker.time_n;
    this._gestures.follow(event, {
      move: (moved) => {
        at_n = Math.max(0, Math.round(marker.time_n + (moved.clientX - from) * this._view.n_per_px));
        timeline.showPreview({ marker: { id: marker.id, time_n: at_n }, word: clock(at_n, 2) });
      },
      done: async (finished) => {
        if (finished && at_n !== marker.time_n) await saying(() => this._pageDoc.do("set_marker", { marker_id: marker.id, at_n }));
        else if (finished) timeline.seekTo(marker.time_n);
        timeline.endPreview();
      },
    });
  }

  _dragEnd(event, end) {
    const timeline = this._timeline;
    const was = this._pageDoc.doc[`${end}_n`];
    let at_n = was;
    this._gestures.follow(event, {
      move: (moved) => {
        at_n = Math.max(0, Math.round(was + (moved.clientX - event.clientX) * this._view.n_per_px));
        timeline.showPreview({ range: { [`${end}_n`]: at_n }, word: `${end} ${clock(at_n, 2)}` });
      },
      done: async (finished) => {
        if (finished && at_n !== was) await saying(() => this._pageDoc.do(`set_${end}`, { at_n }));
        timeline.endPreview();
      },
    });
  }

  // — what is drawn —

  /**
   * @param {{marker?: {id: number, time_n: number}, range?: {in_n?: number, out_n?: number}}} preview a marker or an end of
   *   in and out that is being dragged, and where it is
   */
  draw({ marker: dragged = null, range = {} }) {
    const view = this._view;
    const context = fitted(this.canvas, view.width, HEIGHT);
    const markers = this._pageDoc.doc.markers.map((marker) => (marker.id === dragged?.id ? { ...marker, ...dragged } : marker));
    this._drawRange(context, { ...this._pageDoc.doc, ...range });
    context.font = WORDS;
    const flags = markers.map((marker) => this._flag(context, marker));
    context.font = FIGURES;
    context.textBaseline = "middle";
    const step_n = rulerStep(view.n_per_px, RATE) * RATE;
    for (let at = Math.floor(view.start_n / step_n) * step_n; at < view.stop_n; at += step_n) this._drawStep(context, at, step_n, flags);
    context.font = WORDS;
    markers.forEach((marker, i) => this._drawFlag(context, marker, flags[i]));
  }

  _drawStep(context, at, step_n, flags) {
    const view = this._view;
    const line = (time_n, top) => {
      const x = Math.round(view.x(time_n)) + 0.5;
      context.moveTo(x, top);
      context.lineTo(x, HEIGHT);
    };
    context.strokeStyle = "#3A4859";
    context.lineWidth = 1;
    context.beginPath();
    line(at, 5);
    for (let k = 1; k < 5; k += 1) line(at + (k * step_n) / 5, HEIGHT - 4);
    context.stroke();
    const text = clock(at, step_n < RATE / 10 ? 2 : step_n < RATE ? 1 : 0);
    const x = Math.round(view.x(at)) + 5.5;
    const right = x + context.measureText(text).width;
    if (flags.some((flag) => flag.left < right && flag.right > x - 5)) return; // a name stands there
    context.fillStyle = NIGHT.soft;
    context.fillText(text, x, HEIGHT / 2);
  }

  /** The stretch between in and out, or what there is of it. */
  _drawRange(context, { in_n, out_n, length_n }) {
    if (in_n === null && out_n === null) return;
    const from = in_n === null ? 0 : this._view.x(in_n);
    const to = this._view.x(out_n ?? length_n);
    context.fillStyle = "rgba(242,176,61,.26)";
    context.fillRect(from, 0, to - from, HEIGHT);
    context.fillStyle = LAMP.bright;
    if (in_n !== null) {
      context.fillRect(from, 0, 2, HEIGHT);
      context.fillRect(from, HEIGHT - 3, 8, 3);
    }
    if (out_n !== null) {
      context.fillRect(to - 2, 0, 2, HEIGHT);
      context.fillRect(to - 8, HEIGHT - 3, 8, 3);
    }
  }

  /** Where a flag lies. */
  _flag(context, marker) {
    const x = this._view.x(marker.time_n);
    return { x, left: x - 1, right: x + 16 + Math.min(MOST_NAME_PX, context.measureText(marker.name).width) };
  }

  _drawFlag(context, marker, { x, right }) {
    if (right < 0 || x > this._view.width + FLAG_PX) return;
    context.fillStyle = CREAM;
    context.fillRect(x - 0.75, 1, 1.5, HEIGHT);
    context.beginPath();
    context.arc(x + 4.5, 7, 4, 0, 2 * Math.PI);
    context.fill();
    context.fillText(marker.name, x + 12, 7.5, MOST_NAME_PX);
  }
}
