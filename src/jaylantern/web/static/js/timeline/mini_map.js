// The whole film in one strip under the lanes: passages, glow, markers, and the stretch that is in view, which can be dragged.

import { fitted } from "../ground/canvas.js";
import { JAY, LAMP, NIGHT } from "../plain/look.js";
import { glow, markerPlaces, passageSpans, timeUnder, viewSpan } from "../plain/map_outline.js";

const HEIGHT = 20;

export class MiniMap {
  /** @param {HTMLCanvasElement} canvas @param {{timeline: import("./timeline.js").Timeline, pageDoc: any, gestures: any}} pieces */
  constructor(canvas, { timeline, pageDoc, gestures }) {
    this.canvas = canvas;
    this._timeline = timeline;
    this._pageDoc = pageDoc;
    const go = (event) => {
      const { view } = timeline;
      const middle = timeUnder(view, event.clientX - canvas.getBoundingClientRect().left);
      view.scroll(view.x(middle) - view.width / 2);
      timeline.draw();
    };
    canvas.addEventListener("pointerdown", (event) => {
      go(event);
      gestures.follow(event, { move: go });
    });
  }

  draw() {
    const { view } = this._timeline;
    const { doc } = this._pageDoc;
    const context = fitted(this.canvas, view.width, HEIGHT);
    this._drawGlow(context);
    context.fillStyle = JAY;
    for (const [left, width] of passageSpans(view, doc.passages)) context.fillRect(left, 5, width, 5);
    context.fillStyle = "#E9E1CF";
    for (const at of markerPlaces(view, doc.markers)) context.fillRect(at, 2, 1.5, 15);
    context.strokeStyle = NIGHT.ink;
    context.lineWidth = 1;
    const [left, right] = viewSpan(view);
    context.strokeRect(left, 1.5, right - left, HEIGHT - 3);
  }

  _drawGlow(context) {
    const { leading, doc } = this._pageDoc;
    if (!leading) return;
    context.fillStyle = LAMP.bright;
    for (const [at, bright] of glow(this._timeline.view, leading, doc.length_n)) {
      context.globalAlpha = 0.75 * bright;
      context.fillRect(at, 12, 2, 4);
    }
    context.globalAlpha = 1;
  }
}
