// What the mouse does on a clip while the gain line is in hand: choose a stretch, raise what is chosen of the line, drag a piece of it.

import { saying } from "../ground/said.js";
import { places, snappedBy } from "../plain/snapping.js";

const DRAG_PX = 4;

export class LineGestures {
  /** @param {any} gestures the Gestures it belongs to */
  constructor(gestures) {
    this._gestures = gestures;
  }

  /** A press on the body of a clip of sound; `point` is the line if it is under the pointer. */
  press(event, hit, point) {
    const { timeline, selection, pageDoc } = this._gestures;
    const { stretch, points } = timeline;
    const chosen = stretch.of(hit.clip);
    const within = chosen && chosen[0] <= hit.time_n && hit.time_n <= chosen[1];
    const height = timeline.heightOf(hit.lane.id);
    const drag = within && point ? stretch.raising(hit, height, points.bearer.scale) : point ? this._piece(hit, point, height) : stretch.choosing(hit, (time_n, moved) => this._snap(time_n, moved));
    const from = { x: event.clientX, y: event.clientY };
    let dragging = false;
    if (!selection.clips.has(hit.clip.id)) selection.choose([hit.clip.id]);
    this._gestures.follow(event, {
      move: (moved) => {
        dragging ||= Math.hypot(moved.clientX - from.x, moved.clientY - from.y) > DRAG_PX;
        if (dragging) drag?.to(moved, (moved.clientX - from.x) * timeline.view.n_per_px, moved.clientY - from.y);
      },
      done: async (finished) => {
        const command = dragging && finished ? drag?.command() : null;
        if (command) await saying(() => pageDoc.do(...command));
        timeline.endPreview();
        if (dragging || !finished) return;
        stretch.clear();
        points.clear();
        timeline.seekTo(hit.time_n);
        timeline.focusClip(hit.clip.id);
      },
    });
  }

  /** The two points a piece of the line lies between are dragged up and down. */
  _piece(hit, point, height) {
    const { points } = this._gestures.timeline;
    const after = point.curve.time_n.findIndex((time_n) => time_n > hit.time_n);
    const last = point.curve.time_n.length - 1;
    if (point.curve.empty) return null;
    const ends = after < 0 ? [last] : after === 0 ? [0] : [after - 1, after];
    points.choose(point.name, hit.lane.id, ends);
    const drag = points.drag(hit, height);
    return { to: (event, _, wanted_y) => drag.to(event, 0, wanted_y), command: () => drag.command() };
  }

  _snap(time_n, event) {
    const { timeline, pageDoc } = this._gestures;
    const targets = places(pageDoc.doc, { moving: new Set(), playhead_n: timeline.playhead_n });
    return time_n + snappedBy(event, timeline, 0, [time_n], targets).by_n;
  }
}
