// Riding a fader: while it plays and the gain line is in hand, what a lane's fader does is written as the line of its clips.

import { gainAt } from "./curve.js";
import { LEAST_DB, MOST_DB, lineOf } from "./gain_line.js";
import { newGesture } from "./gesture.js";
import { say, saying } from "./said.js";
import { RATE } from "./units.js";

const WRITE_MS = 200; // how often what was ridden so far is sent, so that it is heard
const AHEAD_N = 2 * RATE; // meanwhile the fader is taken to stay where it is
const LEAST_N = RATE / 50;
const JUMP_N = RATE / 2; // so far from where it should have got to, it plays on somewhere else

export class Ride {
  constructor({ pageDoc, player, timeline }) {
    this._pageDoc = pageDoc;
    this._player = player;
    this._timeline = timeline;
    this._held = null;
    player.addEventListener("state", () => !player.playing && this.letGo());
    pageDoc.addEventListener("back", () => this.letGo());
  }

  /** Would the fader of a lane ride now? */
  get ready() {
    return this._timeline.points.hand === "line" && this._player.playing;
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
    const over = Object.fromEntries(lane.clips.map((each) => [each.id, each.line]));
    this._held = { lane, show, over, from_db, gain_db: from_db, moved: false, noted: performance.now(), time_n: [now_n], gains: [from_db], gesture: newGesture(), written: 0 };
    this._frame();
  }

  /** The fader stands at so many dB now. */
  to(fader_db) {
    const held = this._held;
    if (!held) return;
    held.moved = true;
    held.gain_db = Math.min(Math.max(held.from_db + fader_db - held.lane.gain_db, LEAST_DB), MOST_DB);
    this._note();
  }

  _note() {
    const { time_n, gains, gain_db, noted } = this._held;
    const now_n = Math.round(this._player.now_n);
    const fast = Math.max(Math.abs(this._player.rate), 1);
    const due_n = time_n.at(-1) + ((performance.now() - noted) * RATE * fast) / 1000; // however long the page was busy
    if (now_n < time_n.at(-1) || now_n > due_n + JUMP_N) {
      this.letGo(); // what was ridden is kept
      return;
    }
    this._held.noted = performance.now();
    if (now_n === time_n.at(-1)) gains[gains.length - 1] = gain_db;
    else {
      time_n.push(now_n);
      gains.push(gain_db);
    }
  }

  _frame() {
    if (!this._held) return;
    this._note();
    const held = this._held;
    if (!held) return;
    if (held.moved && performance.now() - held.written > WRITE_MS && this._long()) {
      held.written = performance.now();
      const { values } = this;
      const ahead = { time_n: [...values.time_n, values.time_n.at(-1) + AHEAD_N], gain_db: [...values.gain_db, held.gain_db] };
      this._pageDoc.drag("ride_lane", { ...values, ...ahead }).catch(() => {});
    }
    requestAnimationFrame(() => this._frame());
  }

  _long() {
    const { time_n } = this._held;
    return time_n.at(-1) - time_n[0] >= LEAST_N;
  }

  get values() {
    const { lane, time_n, gains, over, gesture } = this._held;
    return { lane_id: lane.id, time_n: [...time_n], gain_db: gains.map((each) => Number(each.toFixed(3))), over, gesture };
  }

  /** The fader is let go: the line is written, and what comes after is as it was. */
  async letGo() {
    const held = this._held;
    if (!held) return;
    const values = held.moved && this._long() ? this.values : null;
    this._held = null;
    held.show(held.lane.gain_db);
    if (!values) return;
    await saying(async () => {
      await this._pageDoc.do("ride_lane", values);
      say(this._pageDoc.doc.undo);
    });
  }
}
