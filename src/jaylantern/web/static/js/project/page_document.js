// The project's document as the page holds it, and the way to change it. The server decides; this keeps what it said.

import { getJson, sendJson } from "../ground/api.js";
import { allClips } from "../plain/clips.js";

const REST_MS = 120;
const DETAIL_N = 48000 * 400; // a longer stretch is drawn from outlines of long curves
const WINDOWS = "jay-lantern: projects"; // where windows of this browser tell each other of changes

/** A stretch in view with as much to each side of it: [from, to, left, right] in samples; null where it is too long for details. */
export function viewed(start_n, stop_n) {
  const [left, right] = [Math.max(0, Math.floor(start_n)), Math.ceil(stop_n)];
  const room_n = right - left;
  return room_n > DETAIL_N ? null : [Math.max(0, left - room_n), right + room_n, left, right];
}

/** Events: "back" when undo or redo are asked for, so that what is still in hand comes first; "undo" and "redo" with the number of the step, before the new document; "doing" when a change is sent; "curves" when the same curves are known more exactly; "change" after every new document; `detail.said` may hold what undo or redo did. */
export class PageDocument extends EventTarget {
  constructor(project_id) {
    super();
    this.url = `/projects/${project_id}`;
    this.doc = null;
    this.views = []; // functions that answer what is looked at closely, as `viewed` says it; the first one counts
    this.held_curves = {}; // of the draft that is held, by name
    this.held_louder_db = 0; // by how much that draft is louder
    this.weighed = false; // is it to be known what makes plain as loud as ducked?
    this._waiting = new Map();
    this._line = Promise.resolve();
    this._others = new BroadcastChannel(WINDOWS);
    this._others.addEventListener("message", ({ data }) => {
      if (data.url === this.url && this.doc) this.catchUp(data.revision, { foreign: true });
    });
  }

  /** Fetch the document anew. @param {{foreign?: boolean}} how was it changed in another window? */
  async load({ foreign = false } = {}) {
    this._take(await getJson(this._at("document")), { foreign });
  }

  /** The project is at a revision that may not be known here: fetch it, once what was sent from here is answered. */
  async catchUp(revision, { foreign }) {
    await this._line;
    if (this.doc.revision < revision) await this.load({ foreign }).catch(() => {});
  }

  /** What is known of the draft that is held. @param {{curves?: any, louder_db?: number}} held */
  hold({ curves = {}, louder_db = 0 }) {
    this.held_curves = curves;
    this.held_louder_db = louder_db;
    this.dispatchEvent(new Event("curves"));
  }

  inView() {
    for (const view of this.views) {
      const found = view();
      if (found) return found;
    }
    return null;
  }

  /** An address of the project, with what is in view: of long curves the rest is only outlined. */
  _at(path) {
    const view = this.inView();
    const asked = new URLSearchParams(view ? { from_n: String(view[0]), to_n: String(view[1]) } : {});
    if (!this.weighed) asked.set("lean", "1");
    const words = asked.toString();
    return `${this.url}/${path}${words ? `?${words}` : ""}`;
  }

  /** Something else is in view: fetch what is outlined there, when the view has come to rest. */
  look() {
    const view = this.inView();
    const seen = (curve) => !curve.fine || (curve.fine[0] <= view[2] && view[3] <= curve.fine[1]);
    if (!view || !this.doc || Object.values(this.doc.curves).every(seen)) return;
    clearTimeout(this._looks);
    this._looks = setTimeout(async () => {
      const found = await getJson(this._at("curves")).catch(() => null);
      if (found?.revision !== this.doc.revision) return;
      this.doc.curves = found.curves;
      this.dispatchEvent(new Event("curves"));
    }, REST_MS);
  }

  /**
   * Carry out a command, one at a time, in order; the answer is the new document.
   * @template {import("../plain/vocabulary.js").CommandName} Name
   * @param {Name} name @param {Values<Name>} values
   */
  do(name, values) {
    return this._inLine(() => this._send(name, now(values)));
  }

  /**
   * Send a change with the revision it was meant for. Where the project has moved on elsewhere, the new state is fetched;
   * the change is sent again if all it speaks of is as it was, else the person is told.
   */
  async _send(name, values) {
    const path = `do/${name}`;
    const seen = this.doc;
    this.dispatchEvent(new Event("doing"));
    try {
      return await sendJson(this._at(path), { ...values, seen: seen.revision });
    } catch (error) {
      if (!error.details?.stale) throw error;
      await this.load({ foreign: true });
      if (meant(seen, values) !== meant(this.doc, values)) throw error;
      return sendJson(this._at(path), { ...values, seen: this.doc.revision });
    }
  }

  undo() {
    this.dispatchEvent(new Event("back"));
    return this._inLine(() => this._back("undo"));
  }

  redo() {
    this.dispatchEvent(new Event("back"));
    return this._inLine(() => this._back("redo"));
  }

  /**
   * One step back or forth, from what is seen here. Where the project has moved on elsewhere the new state is shown first;
   * the step is taken if it is still the one that was meant: what comes from the background is no step.
   */
  async _back(way) {
    const id = this.doc[`${way}_id`];
    const send = () => sendJson(this._at(way), { seen: this.doc.revision });
    const answer = await send().catch(async (error) => {
      if (!error.details?.stale) throw error;
      await this.load({ foreign: true });
      if (this.doc[`${way}_id`] !== id) throw error;
      return send();
    });
    this.dispatchEvent(new CustomEvent(way, { detail: id }));
    return answer;
  }

  /** Undo or redo up to a step of the history. */
  goTo(edit_id) {
    return this._inLine(() => sendJson(this._at(`go/${edit_id}`)));
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
      return this._send(kind, now(waiting.values));
    });
    return waiting.turn;
  }

  _inLine(work) {
    const turn = this._line.then(async () => this._take(await work(), { mine: true }));
    this._line = turn.catch(() => {});
    return turn;
  }

  /** @param {any} doc @param {{mine?: boolean, foreign?: boolean}} how was it made in this window, or in another? */
  _take(doc, { mine = false, foreign = false } = {}) {
    if (this.doc && doc.revision < this.doc.revision) return;
    const { said, ...rest } = doc;
    const first = !this.doc; // what is there when the page is opened was changed by nobody meanwhile
    const fresh = first || rest.revision !== this.doc.revision;
    this.doc = rest;
    if (fresh) this._others.postMessage({ url: this.url, revision: rest.revision });
    this.dispatchEvent(new CustomEvent("change", { detail: { said, fresh, mine, foreign: foreign && fresh && !first } }));
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
    const all = allClips(this.doc);
    const links = new Set(all.filter((clip) => ids.has(clip.id) && clip.link !== null).map((clip) => clip.link));
    return all.filter((clip) => ids.has(clip.id) || links.has(clip.link));
  }

  /** The picture clips among these, or of all, each with its rate: what a cut through them has to keep to. */
  pictures(clips = null) {
    const ids = clips && new Set(clips.map((clip) => clip.id));
    const there = this.doc.lanes.filter((lane) => lane.kind === "picture").flatMap((lane) => lane.clips);
    return there.filter((clip) => !ids || ids.has(clip.id)).map((clip) => ({ ...clip, fps: this.doc.media[clip.media_id].fps }));
  }

  /** The curve a clip follows, or null. */
  curveOf(clip) {
    return clip.curve === null ? null : (this.doc.curves[clip.curve] ?? null);
  }

  /** The curve that stands for the whole film, or null. */
  get leading() {
    return this.doc.curves[this.doc.leading] ?? null;
  }

  /** Length of a frame of the picture, in seconds. */
  get frame_s() {
    return this.frame_n / this.doc.rate;
  }

  /** Length of a frame of the film that comes first, in samples; 25 a second where there is none. */
  get frame_n() {
    const films = [...this.pictures().toSorted((a, b) => a.start_n - b.start_n), ...Object.values(this.doc.media)];
    return this.doc.rate / (films.find((each) => each.fps)?.fps ?? 25);
  }
}

/**
 * The values of a command, or what answers them when its turn has come.
 * @template {import("../plain/vocabulary.js").CommandName} Name
 * @typedef {import("../plain/vocabulary.js").Commands[Name] | (() => import("../plain/vocabulary.js").Commands[Name])} Values
 */

const now = (values) => (typeof values === "function" ? values() : values);

/** All that a change speaks of, as it stands in a document: two alike mean that it still means the same. */
function meant(doc, values) {
  const ids = new Set([...(values.clip_ids ?? []), values.from_id, values.leader_id, ...Object.keys(values.tags ?? {}).map(Number)]);
  const lanes = new Set([values.lane_id, values.below]);
  if ("index" in values) return JSON.stringify([doc.lanes, doc.passages]); // a passage by its number
  const named = "clip_ids" in values || "lane_id" in values || "tags" in values || "settings" in values || "marker_id" in values;
  if (!named) return JSON.stringify(doc.lanes);
  return JSON.stringify([
    allClips(doc).filter((clip) => ids.has(clip.id)),
    doc.lanes.filter((lane) => lanes.has(lane.id)).map((lane) => ({ ...lane, clips: null })),
    values.settings ? Object.keys(values.settings).map((name) => doc.settings[name]) : null,
    values.marker_id ? doc.markers.filter((marker) => marker.id === values.marker_id) : null,
  ]);
}
