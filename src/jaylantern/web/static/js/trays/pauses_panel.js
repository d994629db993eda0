// Lay out: cutting the pauses out of talk. What would go is struck through on the timeline and can be listened to first.

import { getJson } from "../ground/api.js";
import { say, saying } from "../ground/said.js";
import { typed } from "../plain/typed.js";
import { RATE } from "../plain/units.js";

const WAIT_MS = 120;

export class PausesPanel {
  constructor(element, { pageDoc, selection, player, timeline }) {
    this._element = element;
    this._pageDoc = pageDoc;
    this._selection = selection;
    this._player = player;
    this._timeline = timeline;
    this._by = (id) => element.querySelector(`#${id}`);
    this._found = null;
    this._asked = 0;
    this._timer = null;
    this._stop = new AbortController();
    const options = { signal: this._stop.signal };
    for (const source of [pageDoc, selection]) source.addEventListener("change", () => this._later(), options);
    for (const id of ["pause-longest", "pause-breath"]) this._by(id).addEventListener("input", () => this._later());
    this._by("pause-all").addEventListener("change", () => this._later());
    this._by("pauses-listen").addEventListener("click", () => this._listen());
    this._by("pauses-cut").addEventListener("click", () => this._cut());
    this._watch = new IntersectionObserver(() => this._later());
    this._watch.observe(element);
  }

  destroy() {
    this._stop.abort();
    this._watch.disconnect();
    clearTimeout(this._timer);
    this._asked += 1;
    this._show(null, "");
  }

  get _shown() {
    return this._element.offsetParent !== null;
  }

  _later() {
    clearTimeout(this._timer);
    this._timer = setTimeout(() => this._look(), WAIT_MS);
  }

  get _values() {
    const ms = (id) => Math.round(1000 * typed(this._by(id).value, "s", this._pageDoc.frame_s));
    return { longest_ms: ms("pause-longest"), breath_ms: ms("pause-breath"), clip_ids: [...this._selection.clips], all_lanes: this._by("pause-all").checked };
  }

  async _look() {
    this._asked += 1;
    const turn = this._asked;
    if (!this._shown) return this._show(null, "");
    const values = this._values;
    if (!values.clip_ids.length) return this._show(null, "Choose the narration: one clip, several, or all of a lane.");
    if (Number.isNaN(values.longest_ms) || Number.isNaN(values.breath_ms)) return this._show(null, "Both lengths are times, such as 1.0 s or 400 ms.");
    try {
      const found = await getJson(`${this._pageDoc.url}/pauses?${new URLSearchParams(Object.entries({ ...values, clip_ids: values.clip_ids.join() }).map(([name, value]) => [name, String(value)]))}`);
      if (turn !== this._asked) return undefined;
      const seconds = (found.removed_n / RATE).toFixed(1);
      const count = found.spans.length;
      const words = count ? `${count === 1 ? "One pause" : `${count} pauses`}, together ${seconds} s: struck through on the timeline.` : "No pause is as long as that.";
      return this._show(found, words);
    } catch (error) {
      return turn === this._asked ? this._show(null, error.message) : undefined;
    }
  }

  _show(found, words) {
    this._found = found?.spans.length ? found : null;
    this._timeline.strike(this._found);
    this._by("pauses-found").textContent = words;
    this._by("pauses-cut").disabled = !this._found;
    this._by("pauses-listen").disabled = !this._found;
    if (this._player.skips.length) this._player.setSkips(this._found?.spans ?? []);
    this._by("pauses-listen").setAttribute("aria-pressed", this._player.skips.length > 0);
  }

  _listen() {
    const on = !this._player.skips.length;
    this._player.setSkips(on ? this._found.spans : []);
    this._by("pauses-listen").setAttribute("aria-pressed", on);
    if (on && !this._player.playing) {
      this._player.seek(Math.max(0, this._found.spans[0][0] - 2 * RATE));
      this._player.play();
    }
  }

  async _cut() {
    const before = this._found;
    this._player.setSkips([]);
    this._by("pauses-cut").disabled = true; // until it has been looked again
    await saying(async () => {
      await this._pageDoc.do("cut_pauses", this._values);
      const count = before.spans.length;
      say(`Cut ${count === 1 ? "one pause" : `${count} pauses`}: ${(before.removed_n / RATE).toFixed(1)} s shorter. Undo takes it back.`);
    });
  }
}
