// What the person has chosen: a passage (or a stretch that was said to be none), any number of clips, and which kind of curve
// is in hand. Events: "change", "hand" when the other kind is taken in hand.

import { clipIds } from "../plain/clips.js";
import { followed } from "../plain/in_hand.js";

export class Selection extends EventTarget {
  constructor() {
    super();
    this.passage = null;
    /** A stretch that was said to be no speech, while it is what is in hand. @type {import("../plain/in_hand.js").Stretch | null} */
    this.aside = null;
    this._passages = []; // as they were when the choice was last looked through
    /** @type {Set<number>} in the order they were chosen */
    this.clips = new Set();
    this._anchor = null; // where a range begins
    /** What can be taken hold of: the curves of ducking, or the gain lines. @type {"dips" | "line"} */
    this.hand = "dips";
  }

  /** Take the curves of ducking ("dips") or the gain lines ("line") in hand. @param {"dips" | "line"} hand */
  takeHand(hand) {
    if (hand === this.hand) return;
    this.hand = hand;
    this.dispatchEvent(new Event("hand"));
  }

  /** The clip chosen last, or null. */
  get lead() {
    return [...this.clips].at(-1) ?? null;
  }

  choosePassage(index) {
    this._set({ passage: index, aside: null });
  }

  chooseAside(start_n, stop_n) {
    this._set({ passage: null, aside: { start_n, stop_n } });
  }

  /** Choose these clips and no others. */
  choose(ids) {
    this._anchor = ids.at(-1) ?? null;
    this._set({ clips: new Set(ids) });
  }

  add(ids) {
    this._anchor = ids.at(-1) ?? this._anchor;
    this._set({ clips: new Set([...this.clips, ...ids]) });
  }

  toggle(id) {
    const clips = new Set(this.clips);
    if (!clips.delete(id)) clips.add(id);
    this._anchor = id;
    this._set({ clips });
  }

  /**
   * Choose everything between the clip chosen last and this one: the lanes between them, the time between them.
   * @param {Array<{clips: Array<{id: number, start_n: number, length_n: number}>}>} lanes
   */
  chooseUpTo(id, lanes) {
    const rank = (wanted) => lanes.findIndex((lane) => lane.clips.some((clip) => clip.id === wanted));
    const from = rank(this._anchor);
    const to = rank(id);
    if (from < 0 || to < 0) {
      this.choose([id]);
      return;
    }
    const find = (wanted, at) => lanes[at].clips.find((clip) => clip.id === wanted);
    const ends = [find(this._anchor, from), find(id, to)];
    const start_n = Math.min(...ends.map((clip) => clip.start_n));
    const stop_n = Math.max(...ends.map((clip) => clip.start_n + clip.length_n));
    const within = lanes
      .slice(Math.min(from, to), Math.max(from, to) + 1)
      .flatMap((lane) => lane.clips)
      .filter((clip) => clip.start_n < stop_n && clip.start_n + clip.length_n > start_n)
      .map((clip) => clip.id);
    this._set({ clips: new Set([...within.filter((each) => each !== id), id]) });
  }

  /** Let go of clips that are not there any more; the passage in hand stays in hand, whatever its number is now. */
  keepWithin(doc) {
    const held = this.aside ?? this._passages[this.passage] ?? null;
    const inHand = followed(held, doc);
    this._passages = doc.passages;
    const there = new Set(clipIds(doc));
    this._set({ ...inHand, clips: new Set([...this.clips].filter((id) => there.has(id))) });
  }

  _set(values) {
    const before = this._told;
    Object.assign(this, values);
    this._told = `${this.passage} ${this.aside?.start_n} ${this.aside?.stop_n} ${[...this.clips].join()}`;
    if (before !== this._told) this.dispatchEvent(new Event("change"));
  }
}
