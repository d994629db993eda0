// Hand off, sound: form, rate, range and name, kept for the next time in this browser.

import { KeptValues } from "../ground/kept_values.js";
import { openMenu } from "../ground/menu.js";
import { RATE } from "../plain/units.js";

const KEPT = new KeptValues("sound to hand off");

/** The rate a form has where none is asked for that it can have. @param {string[]} can */
const usualRate = (can) => (can.includes("48000") ? "48000" : can[0]);

export class SoundForm {
  constructor(box, { pageDoc, selection }) {
    this._box = box;
    this._pageDoc = pageDoc;
    this._selection = selection;
    this._size = document.getElementById("sound-size");
    KEPT.fill(this._fields);
    this._stop = new AbortController();
    const options = { signal: this._stop.signal };
    this._button = box.querySelector("#also-forms");
    this._button.addEventListener("click", () => this._alsoMenu(), options);
    box.addEventListener("change", () => this._changed(), options);
    pageDoc.addEventListener("change", () => this._show(), options);
    selection.addEventListener("change", () => this._show(), options);
    this._show();
  }

  destroy() {
    this._stop.abort();
  }

  get _fields() {
    return [...this._box.querySelectorAll("[name]")];
  }

  _field(name) {
    return this._box.querySelector(`[name=${name}]`);
  }

  /** What to send along with what is asked for. */
  get values() {
    const { form, rate, range, pattern, gains } = Object.fromEntries(this._fields.map((field) => [field.name, field.value]));
    return { form, rate: Number(rate), range, pattern, gains, clip_ids: range === "chosen" ? [...this._selection.clips] : [] };
  }

  /** What to send for each of the forms chosen, the first one first; a rate that a form can't have is its usual one. */
  get several() {
    const { options } = this._field("form");
    return this._also.map((form) => {
      const can = [...options].find((option) => option.value === form).dataset.rates.split(" ");
      const { rate } = this.values;
      return { form, rate: can.includes(String(rate)) ? rate : Number(usualRate(can)) };
    });
  }

  /** Further forms, without the one that is chosen anyway. */
  get _also() {
    const { options, value } = this._field("form");
    const offered = [...options].map((option) => option.value);
    return this._field("also").value.split(",").filter((form) => offered.includes(form) && form !== value);
  }

  _alsoMenu() {
    const box = this._button.getBoundingClientRect();
    const { options, value } = this._field("form");
    const also = this._also;
    const set = (forms) => {
      this._field("also").value = forms.join();
      this._changed();
    };
    const items = [...options].filter((option) => option.value !== value).map((option) => {
      const on = also.includes(option.value);
      return { label: option.text, on, run: () => set(on ? also.filter((each) => each !== option.value) : [...also, option.value]) };
    });
    openMenu({ x: box.left, y: box.bottom + 4 }, items, "Made with the same press");
  }

  _changed() {
    KEPT.keep(Object.fromEntries(this._fields.map((field) => [field.name, field.value])));
    this._show();
  }

  /** Rates that the form can't have are off; the size follows. */
  _show() {
    const { selectedOptions, options } = this._field("form");
    const also = [...options].filter((option) => this._also.includes(option.value)).map((option) => option.text);
    document.getElementById("also-said").textContent = also.join(", ");
    const { rates, bytes } = selectedOptions[0].dataset;
    const can = rates.split(" ");
    const rate = this._field("rate");
    for (const option of rate.options) option.disabled = !can.includes(option.value);
    if (rate.selectedOptions[0]?.disabled) rate.value = usualRate(can);
    const mb = ((this._length_n / RATE) * Number(bytes) * (Number(rate.value) / RATE)) / 1e6;
    this._size.textContent = `${mb < 10 ? mb.toFixed(1) : Math.round(mb)} MB`;
  }

  get _length_n() {
    const { doc } = this._pageDoc;
    const range = this._field("range").value;
    if (range === "in-out") return doc.in_n !== null && doc.out_n !== null ? doc.out_n - doc.in_n : 0;
    if (range === "whole") return doc.length_n;
    const clips = [...this._selection.clips].map((id) => this._pageDoc.clip(id)?.clip).filter(Boolean);
    if (!clips.length) return 0;
    return Math.max(...clips.map((clip) => clip.start_n + clip.length_n)) - Math.min(...clips.map((clip) => clip.start_n));
  }
}
