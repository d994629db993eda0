// Points of curves and gain lines on the lanes: chosen, dragged, added, taken away, typed exactly. One of both is in hand.

import { askFigures } from "../ground/ask_figures.js";
import { gainAt, upper } from "../plain/curve.js";
import { KeyRun } from "../ground/gesture.js";
import { DuckingCurves, GainLines } from "./point_bearers.js";
import { say, saying } from "../ground/said.js";
import { commandHeld } from "../ground/system_keys.js";
import { RATE, amplitude, clock, figure } from "../plain/units.js";

const NEAR_PX = 8;

/** Events: "change" when other points are chosen. */
export class Points extends EventTarget {
  constructor({ pageDoc, selection, timeline }) {
    super();
    this.pageDoc = pageDoc;
    this._selection = selection;
    this.timeline = timeline;
    this._run = new KeyRun();
    this._bearers = { dips: new DuckingCurves(pageDoc), line: new GainLines(pageDoc) };
    this._name = null; // of the curve whose points are chosen
    this._lane_id = null;
    this.chosen = new Set(); // indices
    this._times = null;
    this._wanted = null; // times that are to be chosen again when the new curve is there
    selection.addEventListener("hand", () => this.choose(null, null, []));
    pageDoc.addEventListener("change", ({ detail }) => {
      if (detail.fresh) this._again(); // else the curves are as they were, and so is what is chosen of them
    });
  }

  get curve() {
    return this.bearer.curve(this._name);
  }

  get bearer() {
    return this._bearers[this._selection.hand];
  }

  /** The chosen points of a curve. */
  of(name) {
    return name === this._name ? this.chosen : null;
  }

  choose(name, lane_id, indices) {
    this._name = name;
    this._lane_id = lane_id;
    this.chosen = new Set(indices);
    this._times = this.curve ? [...this.chosen].map((i) => this.curve.time_n[i]) : null; // chosen while they lie where they are
    this.timeline.draw();
    this.dispatchEvent(new Event("change"));
  }

  clear() {
    if (!this.chosen.size) return false;
    this.choose(null, null, []);
    return true;
  }

  _again() {
    const { curve } = this;
    const wanted = this._wanted ?? this._times ?? [];
    this._wanted = null;
    const found = curve ? wanted.map((time_n) => curve.time_n.indexOf(time_n)).filter((i) => i >= 0) : [];
    this.chosen = new Set(found);
    this._times = wanted;
    if (!found.length) this._name = null;
  }

  /** The point, or the line of the curve, near a place on a lane. @returns {{name: string, curve, index: number | null} | null} */
  near(hit, row_height) {
    const { clip } = hit;
    const name = this.bearer.nameOn(hit);
    if (!name) return null;
    const curve = this.bearer.curve(name);
    const { view } = this.timeline;
    const scale = this.bearer.scale(row_height, curve);
    const reach_n = NEAR_PX * view.n_per_px;
    let best = null;
    for (let i = upper(curve.time_n, hit.time_n - reach_n - 1); i < curve.time_n.length && curve.time_n[i] <= hit.time_n + reach_n; i += 1) {
      if (curve.empty || curve.time_n[i] < clip.start_n || curve.time_n[i] > clip.start_n + clip.length_n) continue;
      const away = Math.hypot(view.x(curve.time_n[i]) - hit.x, scale.y(curve.gain_db[i]) - hit.y);
      if (away <= NEAR_PX && (!best || away < best.away)) best = { index: i, away };
    }
    if (best) return { name, curve, index: best.index };
    const line = Math.abs(scale.y(gainAt(curve, hit.time_n)) - hit.y) <= NEAR_PX - 2;
    return line ? { name, curve, index: null } : null;
  }

  /** A press on a point: chosen as on any list. */
  press(event, hit, found) {
    const toggles = commandHeld(event);
    const mine = found.name === this._name ? this.chosen : new Set();
    if (toggles) {
      const next = new Set(mine);
      if (!next.delete(found.index)) next.add(found.index);
      this.choose(found.name, hit.lane.id, next);
    } else if (event.shiftKey && mine.size) {
      const ends = [...mine, found.index];
      const [from, to] = [Math.min(...ends), Math.max(...ends)];
      this.choose(found.name, hit.lane.id, Array.from({ length: to - from + 1 }, (_, k) => from + k));
    } else if (!mine.has(found.index)) {
      this.choose(found.name, hit.lane.id, [found.index]);
    }
  }

  /** The drag of the chosen points, for the gestures. */
  drag(hit, row_height) {
    const { curve, timeline } = this;
    const indices = [...this.chosen].sort((a, b) => a - b);
    const scale = this.bearer.scale(row_height, curve);
    const [least_db, most_db] = this.bearer.limits;
    const [low_n, high_n] = this._room(indices, hit.clip);
    const gains = indices.map((i) => curve.gain_db[i]);
    let by_n = 0;
    let by_db = 0;
    return {
      to: (event, wanted_n, wanted_y) => {
        by_n = Math.round(Math.min(Math.max(wanted_n, low_n), high_n));
        by_db = Math.round((scale.db(hit.y + wanted_y) - scale.db(hit.y)) * 10) / 10;
        by_db = Math.min(Math.max(by_db, least_db - Math.min(...gains)), most_db - Math.max(...gains));
        if (event.shiftKey && Math.abs(wanted_n / timeline.view.n_per_px) > Math.abs(wanted_y)) by_db = 0;
        else if (event.shiftKey) by_n = 0;
        const lead = indices[0];
        const word = `${levelWord(curve.gain_db[lead] + by_db)} · ${clock(curve.time_n[lead] + by_n, 2)}`;
        timeline.showPreview({ curves: new Map([[this._name, moved(curve, indices, by_n, by_db)]]), word });
      },
      command: () => (by_n || by_db ? this._moves(indices, by_n, by_db) : null),
    };
  }

  /** How far points can go: not past the ones that stay, nor out of their clip. */
  _room(indices, clip) {
    const { time_n } = this.curve;
    let [low, high] = [-Infinity, Infinity];
    for (const i of indices) {
      const before = this.chosen.has(i - 1) ? -Infinity : (time_n[i - 1] ?? -Infinity);
      const after = this.chosen.has(i + 1) ? Infinity : (time_n[i + 1] ?? Infinity);
      low = Math.max(low, Math.max(before + 1, clip.start_n) - time_n[i]);
      high = Math.min(high, Math.min(after - 1, clip.start_n + clip.length_n) - time_n[i]);
    }
    return [Math.min(low, 0), Math.max(high, 0)];
  }

  _moves(indices, by_n, by_db) {
    const { curve } = this;
    const points = indices.map((index) => ({ index, to_n: curve.time_n[index] + by_n, to_db: Number((curve.gain_db[index] + by_db).toFixed(3)) }));
    this._wanted = points.map((point) => point.to_n);
    return this.bearer.moved(this._name, this._lane_id, points);
  }

  /** Move the chosen points by so much; true if there were any. */
  nudge(by_n, by_db) {
    if (!this.chosen.size || !this.curve) return false;
    const indices = [...this.chosen].sort((a, b) => a - b);
    const clip = this.bearer.clipAt(this._name, this._lane_id, this.curve.time_n[indices[0]]);
    if (!clip) return false;
    const [low_n, high_n] = this._room(indices, clip);
    const [deed, values] = this._moves(indices, Math.round(Math.min(Math.max(by_n, low_n), high_n)), by_db);
    saying(() => this.pageDoc.do(deed, { ...values, gesture: this._run.of(`${this._name} ${indices.join()}`) }));
    return true;
  }

  /** Take the chosen points away; true if there were any. */
  remove() {
    if (!this.chosen.size || !this.curve) return false;
    const [deed, values] = this.bearer.removed(this._name, this._lane_id, [...this.chosen]);
    saying(() => this.pageDoc.do(deed, values));
    return true;
  }

  /** Add a point on the curve at a time. */
  add(lane_id, name, time_n) {
    const at_n = Math.max(0, Math.round(time_n));
    this._name = name;
    this._lane_id = lane_id;
    this._wanted = [at_n];
    const [deed, values] = this.bearer.added(name, lane_id, at_n);
    saying(() => this.pageDoc.do(deed, values));
  }

  /** The lane and curve that are meant by default: those of the chosen point, else of the chosen clip, else of the music. */
  target(selection) {
    return this._name ? { name: this._name, lane_id: this._lane_id } : this.bearer.meant(selection);
  }

  /** Choose the point before (−1) or after (1) the chosen one, or the playhead. */
  step(way, selection, now_n) {
    const target = this.target(selection);
    const curve = target && this.bearer.curve(target.name);
    if (!curve || curve.empty) {
      say(curve ? "The line has no points yet. A double click on it adds one." : this.bearer.none);
      return;
    }
    const inside = (time_n) => Boolean(this.bearer.clipAt(target.name, target.lane_id, time_n));
    const from = this.chosen.size ? Math[way > 0 ? "max" : "min"](...this.chosen) : upper(curve.time_n, now_n) - (way > 0 ? 1 : 0);
    let i = from + way;
    while (curve.time_n[i] !== undefined && !inside(curve.time_n[i])) i += way;
    if (curve.time_n[i] === undefined) {
      say(way > 0 ? "There is no point after this." : "There is no point before this.");
      return;
    }
    this.choose(target.name, target.lane_id, [i]);
    this.timeline.reveal(curve.time_n[i]);
    say(`Point: ${figure(curve.gain_db[i], 1)} dB at ${clock(curve.time_n[i], 2)}`);
  }

  /** Type the exact values of the chosen point. */
  exact() {
    const { curve } = this;
    if (this.chosen.size !== 1 || !curve) {
      say("Choose one point of a curve first: click it, or step to it with its key.");
      return;
    }
    const [index] = this.chosen;
    const set = (seconds, gain_db) => {
      const to_n = Math.max(0, Math.round(seconds * RATE));
      this._wanted = [to_n];
      const [deed, values] = this.bearer.moved(this._name, this._lane_id, [{ index, to_n, to_db: gain_db }]);
      saying(() => this.pageDoc.do(deed, values));
    };
    const fields = [
      { label: "Time", name: "Time of the point", unit: "s", value: (curve.time_n[index] / RATE).toFixed(3) },
      { label: "Gain", name: "Gain of the point in dB", unit: "dB", value: figure(curve.gain_db[index], 2) },
    ];
    askFigures("Point", fields, set, "A point needs a time, as in 12.5 s or 00:12.5, and a gain, as in −6 dB or 50 %. It stays where it was.", this.pageDoc.frame_s);
  }
}

/** A gain in dB and in per cent of amplitude. */
export const levelWord = (gain_db) => `${figure(gain_db, 1)} dB · ${Math.round(100 * amplitude(gain_db))} %`;

/** A curve with some points moved. */
function moved(curve, indices, by_n, by_db) {
  const next = { ...curve, time_n: [...curve.time_n], gain_db: [...curve.gain_db] };
  for (const i of indices) {
    next.time_n[i] += by_n;
    next.gain_db[i] += by_db;
  }
  return next;
}
