// Riding a fader: while it plays and the gain line is in hand, what a lane's fader does is written as the line of its clips.

import { gainAt } from "../plain/curve.js";
import { lineOf } from "../plain/gain_line.js";
import { newGesture } from "../ground/gesture.js";
import { say } from "../ground/said.js";
import { ahead, begun, jumped, long, noted, ridden } from "../plain/ride_line.js";
import { clock } from "../plain/units.js";

const WRITE_MS = 200; // how often what was ridden so far is sent, so that it is heard

export class Ride {
  constructor({ pageDoc, player, selection }) {
    this._pageDoc = pageDoc;
    this._player = player;
    this._selection = selection;
    this._held = null;
    player.addEventListener("state", () => !player.playing && this.letGo());
    pageDoc.addEventListener("back", () => this.letGo());
  }

  /** Would the fader of a lane ride now? */
  get ready() {
    return this._selection.hand === "line" && this._player.playing;
  }

  /** The lane whose fader is held, null: none. */
  get lane_id() {
    return this._held?.lane.id ?? null;
  }

  /** The fader of a lane is touched. @param {any} lane @param {(gain_db: number) => void} show puts the fader back when it is let go */
  touch(lane, show) {
    if (this._held) this.letGo();
    const now_n = Math.round(this._player.now_n);
    const clip = lane.clips.find((each) => each.start_n <= now_n && now_n < each.start_n + each.length_n);
    const from_db = clip ? gainAt(lineOf(clip), now_n) : 0;
    this._held = { ...begun(now_n, from_db, performance.now()), written: 0, lane, show, over: linesOf(lane), from_db, moved: false, gesture: newGesture() };
    this._frame();
  }

  /** The fader stands at so many dB now. */
  to(fader_db) {
    const held = this._held;
    if (!held) return;
    held.moved = true;
    held.gain_db = ridden(held.from_db, fader_db, held.lane.gain_db);
    this._note();
  }

  /** Note where the fader stands; where the playhead has jumped, what was ridden is written and a further part begins. */
  _note() {
    const held = this._held;
    const now = { now_n: Math.round(this._player.now_n), at_ms: performance.now(), rate: this._player.rate };
    if (jumped(held, now)) {
      this._write(held);
      this._held = { ...held, ...begun(now.now_n, held.gain_db, now.at_ms), written: 0, over: null }; // what its lines are is known when the first part is written
    } else Object.assign(held, noted(held, now));
  }

  _frame() {
    if (!this._held) return;
    this._note();
    const held = this._held;
    if (held.moved && performance.now() - held.written > WRITE_MS && long(held)) {
      held.written = performance.now();
      const heard = ahead(held);
      this._pageDoc.drag("ride_lane", () => this._values(heard, held)).catch(() => {});
    }
    requestAnimationFrame(() => this._frame());
  }

  /** The fader is let go: the line is written to where it was let go, and what comes after is as it was. */
  async letGo() {
    if (!this._held) return;
    this._note();
    const held = this._held;
    this._held = null;
    held.show(held.lane.gain_db);
    if (await this._write(held)) say(this._pageDoc.doc.undo);
  }

  /** Write a part of a ride; answers whether there was anything to write, and it was written. */
  async _write(held) {
    if (!held.moved || !long(held)) return false;
    const [from_n, to_n] = [held.time_n[0], held.time_n.at(-1)];
    try {
      await this._pageDoc.do("ride_lane", () => this._values(held));
      return true;
    } catch (error) {
      say(`The ride from ${clock(from_n, 1)} to ${clock(to_n, 1)} is not written to its end: ${error.message} Ride it again.`, { trouble: true, about: error.about ?? "" });
      return false;
    }
  }

  /** What is sent of a part, when its turn has come: the part before it is written then. */
  _values(part, held = part) {
    const { lane, time_n, gains, gesture } = part;
    held.over ??= linesOf(this._pageDoc.lane(lane.id));
    return { lane_id: lane.id, time_n: [...time_n], gain_db: gains.map((each) => Number(each.toFixed(3))), over: held.over, gesture };
  }
}

const linesOf = (lane) => Object.fromEntries((lane?.clips ?? []).map((each) => [each.id, each.line]));

