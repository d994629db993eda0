// Hand off: how the film is made, remembered in this browser; what its end means is said before it is made.

import { ask } from "../ground/api.js";
import { FigureField } from "../ground/figure_field.js";
import { KeptValues } from "../ground/kept_values.js";
import { saying } from "../ground/said.js";
import { figure } from "../plain/units.js";

const KEPT = new KeptValues("film form");
const LONGEST_S = 60;

export class FilmForm {
  /** @param {HTMLElement} card holds the form, which comes anew with every change of the project */
  constructor(card, { pageDoc }) {
    this._form = card;
    this._pageDoc = pageDoc;
    this._turn = 0;
    this._stop = new AbortController();
    card.addEventListener("change", () => this._changed(), { signal: this._stop.signal });
    card.addEventListener("htmx:afterSwap", () => this._furnish(), { signal: this._stop.signal });
    this._furnish();
  }

  destroy() {
    this._stop.abort();
  }

  _field(name) {
    return this._form.querySelector(`[name=${name}]`);
  }

  get _boxes() {
    return [...this._form.querySelectorAll("[type=checkbox]")];
  }

  get values() {
    const fields = [...this._form.querySelectorAll("select, [name=language]")].map((field) => [field.name, field.value]);
    const boxes = this._boxes.map((box) => [box.name, box.checked ? box.value : ""]);
    return { ...Object.fromEntries([...fields, ...boxes]), fade_s: this._fade_s };
  }

  _furnish() {
    const { fade_s = 2, language = "", ...kept } = KEPT.values;
    KEPT.fill(this._form.querySelectorAll("select"));
    for (const box of this._boxes) if (box.name in kept) box.checked = kept[box.name] === box.value;
    if (this._field("language")) this._field("language").value = language;
    this._fade_s = fade_s;
    const set = async (seconds) => {
      this._fade_s = Math.min(Math.max(seconds, 0), LONGEST_S);
      this._changed();
    };
    this._fade = new FigureField(this._field("fade_s"), {
      format: (value) => figure(value, value % 1 ? 1 : 0), unit: "s", frame_s: () => this._pageDoc.frame_s, step: 0.5, what: "the fade",
      reset: () => set(2), send: set,
    });
    this._show();
  }

  /** Whether the picture is copied or encoded anew, and with it the choice of a quality, goes by the frames chosen. */
  _showHow() {
    const otherRate = this._field("fps").value !== "";
    const quality = /** @type {HTMLElement} */ (this._form.querySelector(".film-quality"));
    quality.hidden = !otherRate && !quality.dataset.always;
    for (const [name, shown] of [["as-filmed", !otherRate], ["other-rate", otherRate]]) {
      const words = this._form.querySelector(`.film-how .${name}`);
      if (words) /** @type {HTMLElement} */ (words).hidden = !shown;
    }
  }

  _changed() {
    KEPT.keep(this.values);
    this._show();
  }

  async _show() {
    this._fade.show(this._fade_s);
    this._form.querySelector(".film-fade").classList.toggle("off", this._field("ending").value !== "picture");
    this._showHow();
    this._turn += 1;
    const turn = this._turn;
    const { ending, fade_s } = this.values;
    const answer = await saying(() => ask(`${this._pageDoc.url}/film/ends?${new URLSearchParams({ ending, fade_s })}`));
    const words = await answer?.text();
    if (turn === this._turn && words) this._form.querySelector("#film-ends").textContent = words.trim();
  }
}
