// A chosen stretch of clips whose gain lines are raised or lowered together: dragged, typed, or by keys.

import { KeyRun } from "../ground/gesture.js";
import { LEAST_DB, MOST_DB, levelsIn, lineOf, raised } from "../plain/gain_line.js";
import { levelWord } from "./points.js";
import { say, saying } from "../ground/said.js";

/** Events: "change" when another stretch, or none, is chosen. */
export class LineStretch extends EventTarget {
  constructor({ pageDoc, timeline }) {
    super();
    this._pageDoc = pageDoc;
    this._timeline = timeline;
    this._run = new KeyRun();
    this.chosen = null; // { clip_ids: number[], start_n, stop_n }
    pageDoc.addEventListener("change", () => {
      if (this.chosen && !this._clips().length) this.choose(null);
    });
  }

  /** @param {{clip_ids: number[], start_n: number, stop_n: number} | null} stretch */
  choose(stretch) {
    this.chosen = stretch;
    this._timeline.draw();
    this.dispatchEvent(new Event("change"));
  }

  clear() {
    if (!this.chosen) return false;
    this.choose(null);
    return true;
  }

  /** What of a clip is chosen: [from, to], null for nothing. */
  of(clip) {
    const { chosen } = this;
    if (!chosen?.clip_ids.includes(clip.id)) return null;
    const [from, to] = [Math.max(chosen.start_n, clip.start_n), Math.min(chosen.stop_n, clip.start_n + clip.length_n)];
    return from < to ? [from, to] : null;
  }

  _clips() {
    return this.chosen.clip_ids.map((id) => this._pageDoc.clip(id)?.clip).filter((clip) => clip && this.of(clip));
  }

  /** The drag that chooses a stretch of a clip. @param {(time_n: number, event: any) => number} snap */
  choosing(hit, snap) {
    const clip_ids = [hit.clip.id];
    return {
      to: (event, wanted_n) => {
        const ends = [hit.time_n, hit.time_n + wanted_n].map((time_n) => Math.min(Math.max(snap(time_n, event), hit.clip.start_n), hit.clip.start_n + hit.clip.length_n));
        this.choose({ clip_ids, start_n: Math.round(Math.min(...ends)), stop_n: Math.round(Math.max(...ends)) });
      },
      command: () => null,
    };
  }

  /** The drag of the line within the stretch. */
  raising(hit, row_height, scale) {
    const clips = this._clips();
    const px_db = scale(row_height, lineOf(hit.clip));
    let by_db = 0;
    return {
      to: (_, __, wanted_y) => {
        by_db = Math.round(10 * Math.min(Math.max(px_db.db(hit.y + wanted_y) - px_db.db(hit.y), LEAST_DB), MOST_DB)) / 10;
        const curves = new Map(clips.map((clip) => [`line ${clip.id}`, raised(lineOf(clip), ...this.of(clip), by_db)]));
        this._timeline.showPreview({ curves, word: `${by_db > 0 ? "+" : ""}${levelWord(by_db)}` });
      },
      command: () => (by_db ? ["raise_stretch", { ...this.chosen, by_db }] : null),
    };
  }

  /** Raise it by so much; false if none is chosen. */
  nudge(by_db) {
    if (!this.chosen || !by_db) return false;
    const { clip_ids, start_n, stop_n } = this.chosen;
    this.raise(by_db, this._run.of(`${clip_ids.join()} ${start_n} ${stop_n}`));
    return true;
  }

  /** Raise it by so much, as part of a gesture if it is said. */
  raise(by_db, gesture = "") {
    const named = gesture ? { gesture } : {};
    if (this._asked()) return saying(() => this._pageDoc.do("raise_stretch", { ...this.chosen, by_db, ...named }));
  }

  /** The levels its lines have in it. */
  get _levels() {
    return this._clips().flatMap((clip) => levelsIn(lineOf(clip), ...this.of(clip)));
  }

  /** The level its lines have in it, loudest against softest: NaN where it is not one. */
  get level_db() {
    if (!this.chosen) return NaN;
    const all = this._levels;
    const [low, high] = [Math.min(...all), Math.max(...all)];
    return high - low < 0.05 ? (low + high) / 2 : NaN;
  }

  /** Bring it to a level; where its lines have several there, all go by what the loudest needs. */
  async setTo(to_db, gesture = "") {
    if (!this._asked()) return;
    const by_db = Math.round(100 * (to_db - Math.max(...this._levels))) / 100;
    if (by_db) await this.raise(by_db, gesture);
  }

  /** Make it as loud as what lies around it. */
  level() {
    if (this._asked()) saying(() => this._pageDoc.do("level_stretch", { ...this.chosen }));
  }

  _asked() {
    if (!this.chosen) say("Choose a stretch first: with the gain line in hand, drag over a clip.");
    return Boolean(this.chosen);
  }
}
