// The project's document as the page holds it, and the way to change it. The server decides; this keeps what it said.

import { getJson, sendJson } from "./api.js";

const WINDOWS = "jay-lantern: projects"; // where windows of this browser tell each other of changes

/** Events: "change" after every new document; `detail.said` may hold what undo or redo did. */
export class Score extends EventTarget {
  constructor(project_id) {
    super();
    this.url = `/projects/${project_id}`;
    this.doc = null;
    this._waiting = new Map();
    this._line = Promise.resolve();
    this._others = new BroadcastChannel(WINDOWS);
    this._others.addEventListener("message", ({ data }) => {
      if (data.url === this.url && this.doc && data.revision > this.doc.revision) this.load().catch(() => {});
    });
  }

  async load() {
    this._take(await getJson(`${this.url}/score`));
  }

  /** Carry out a command, or (with a / in it) a correction; one at a time, in order. */
  do(kind, values) {
    return this.post(pathOf(kind), values);
  }

  /** Send a change to an address of the project; the answer is the new document. */
  post(path, values) {
    return this._inLine(() => this._send(path, values));
  }

  /**
   * Send a change with the revision it was meant for. Where the project has moved on elsewhere, the new state is fetched;
   * the change is sent again if all it speaks of is as it was, else the person is told.
   */
  async _send(path, values) {
    const seen = this.doc;
    try {
      return await sendJson(`${this.url}/${path}`, { ...values, seen: seen.revision });
    } catch (error) {
      if (!error.details?.stale) throw error;
      await this.load();
      if (meant(seen, values) !== meant(this.doc, values)) throw error;
      return sendJson(`${this.url}/${path}`, { ...values, seen: this.doc.revision });
    }
  }

  undo() {
    return this._inLine(() => sendJson(`${this.url}/undo`));
  }

  redo() {
    return this._inLine(() => sendJson(`${this.url}/redo`));
  }

  /** Undo or redo up to a step of the history. */
  goTo(edit_id) {
    return this._inLine(() => sendJson(`${this.url}/go/${edit_id}`));
  }

  /** As `do`, for values that change while something is dragged: while one is on its way only the newest waits. */
  drag(kind, values) {
    const waits = this._waiting.get(kind);
    if (waits) {
      waits.values = values;
      return waits.turn;
    }
    const waiting = { values, turn: null };
    this._waiting.set(kind, waiting);
    waiting.turn = this._inLine(() => {
      this._waiting.delete(kind);
      return this._send(pathOf(kind), waiting.values);
    });
    return waiting.turn;
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
    if (fresh) this._others.postMessage({ url: this.url, revision: rest.revision });
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

  /** All clips of these numbers with those linked to them. */
  together(ids) {
    const all = this.doc.lanes.flatMap((lane) => lane.clips);
    const links = new Set(all.filter((clip) => ids.has(clip.id) && clip.link !== null).map((clip) => clip.link));
    return all.filter((clip) => ids.has(clip.id) || links.has(clip.link));
  }

  /** The curve a clip follows, or null. */
  curveOf(clip) {
    return clip.curve === null ? null : (this.doc.curves[clip.curve] ?? null);
  }

  /** The curve that stands for the whole film, or null. */
  get leading() {
    return this.doc.curves[this.doc.leading] ?? null;
  }

  /** Length of a frame of the picture, in samples; 25 a second where there is none. */
  get frame_n() {
    const film = Object.values(this.doc.media).find((medium) => medium.fps);
    return this.doc.rate / (film?.fps ?? 25);
  }
}

/** All that a change speaks of, as it stands in a document: two alike mean that it still means the same. */
function meant(doc, values) {
  const ids = new Set([...(values.clip_ids ?? []), values.from_id, values.leader_id, ...Object.keys(values.tags ?? {}).map(Number)]);
  const lanes = new Set([values.lane_id, values.below]);
  const named = "clip_ids" in values || "lane_id" in values || "tags" in values || "settings" in values || "marker_id" in values;
  if (!named) return JSON.stringify(doc.lanes);
  return JSON.stringify([
    doc.lanes.flatMap((lane) => lane.clips.filter((clip) => ids.has(clip.id))),
    doc.lanes.filter((lane) => lanes.has(lane.id)).map(({ clips, ...lane }) => lane),
    values.settings ? Object.keys(values.settings).map((name) => doc.settings[name]) : null,
    values.marker_id ? doc.markers.filter((marker) => marker.id === values.marker_id) : null,
  ]);
}

const pathOf = (kind) => (kind.includes("/") ? kind : `do/${kind}`);

let gestures = 0;

/** A name that makes the edits of one gesture one step of the history. */
export function newGesture() {
  gestures += 1;
  return `${Date.now().toString(36)}-${gestures}`;
}
