// The whole film in one strip under the lanes: passages, glow, markers, and the stretch that is in view, which can be dragged.

import { fitted } from "../ground/canvas.js";
import { gainAt } from "../plain/curve.js";
import { JAY, LAMP, NIGHT } from "../plain/look.js";
import { amplitude } from "../plain/units.js";

const HEIGHT = 20;

export class MiniMap {
  /** @param {HTMLCanvasElement} canvas @param {{timeline: import("./timeline.js").Timeline, pageDoc: any, gestures: any}} pieces */
  constructor(canvas, { timeline, pageDoc, gestures }) {
    this.canvas = canvas;
    this._timeline = timeline;
    this._pageDoc = pageDoc;
    const go = (event) => {
      const { view } = timeline;
      const middle = ((event.clientX - canvas.getBoundingClientRect().left) / view.width) * view.length_n;
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
    const x = (time_n) => (time_n / view.length_n) * view.width;
    this._drawGlow(context, x(doc.length_n));
    context.fillStyle = JAY;
    for (const passage of doc.passages) {
      context.fillRect(x(passage.start_n), 5, Math.max(1, x(passage.stop_n) - x(passage.start_n)), 5);
    }
    context.fillStyle = "#E9E1CF";
    for (const marker of doc.markers) context.fillRect(x(marker.time_n), 2, 1.5, 15);
    context.strokeStyle = NIGHT.ink;
    context.lineWidth = 1;
    const left = Math.max(0.5, x(view.start_n) + 0.5);
    context.strokeRect(left, 1.5, Math.min(x(view.stop_n), view.width - 0.5) - left, HEIGHT - 3);
  }

  _drawGlow(context, right) {
    const { view } = this._timeline;
    const { leading } = this._pageDoc;
    if (!leading) return;
    context.fillStyle = LAMP.bright;
    for (let at = 0; at < right; at += 2) {
      context.globalAlpha = 0.75 * amplitude(gainAt(leading, (at / view.width) * view.length_n));
      context.fillRect(at, 12, 2, 4);
    }
    context.globalAlpha = 1;
  }
}
