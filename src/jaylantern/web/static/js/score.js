// The project's document as the page holds it, and the way to change it. The server decides; this keeps what it said.

import { getJson, sendJson } from "./api.js";

/** Events: "change" after every new document; `detail.said` may hold what undo or redo did. */
export class Score extends EventTarget {
  constructor(project_id) {
    super();
    this.url = `/projects/${project_id}`;
    this.doc = null;
    this._waiting = new Map();
    this._line = Promise.resolve();
  }

  async load() {
    this._take(await getJson(`${this.url}/score`));
  }

  /** Carry out a command; one at a time, in order. */
  do(kind, values) {
    return this._inLine(() => sendJson(`${this.url}/do/${kind}`, values));
  }

  undo() {
    return this._inLine(() => sendJson(`${this.url}/undo`));
  }

  redo() {
    return this._inLine(() => sendJson(`${this.url}/redo`));
  }

  /** As `do`, for values that change while something is dragged: while one is on its way only the newest waits. */
  async drag(kind, values) {
    const waits = this._waiting.has(kind);
    this._waiting.set(kind, values);
    if (waits) return;
    await this._inLine(() => {
      const newest = this._waiting.get(kind);
      this._waiting.delete(kind);
      return sendJson(`${this.url}/do/${kind}`, newest);
    });
  }

  _inLine(work) {
    const turn = this._line.then(async () => this._take(await work()));
    this._line = turn.catch(() => {});
    return turn;
  }

  _take(doc) {
    if (this.doc && doc.revision < this.doc.revision) return;
    const { said, ...rest } = doc;
    const fresh = !this.doc || rest.revision !== this.doc.revision;
    this.doc = rest;
    this.dispatchEvent(new CustomEvent("change", { detail: { said, fresh } }));
  }

  lane(id) {
    return this.doc.lanes.find((lane) => lane.id === id);
  }

  clip(id) {
    for (const lane of this.doc.lanes) {
      const clip = lane.clips.find((each) => each.id === id);
      if (clip) return { lane, clip };
    }
    return null;
  }

  /** The curve a clip follows, or null. */
  curveOf(clip) {
    return this.doc.curves[clip.tag] ?? null;
  }
}

let gestures = 0;

/** A name that makes the edits of one gesture one step of the history. */
export function newGesture() {
  gestures += 1;
  return `${Date.now().toString(36)}-${gestures}`;
}
