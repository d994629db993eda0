// Settings as slider and field: dragged, typed, nudged with the arrow keys, reset by double-click.

import { newGesture } from "./score.js";
import { say, saying } from "./said.js";
import { amplitude, figure, typed } from "./units.js";

export class Knobs {
  constructor(element, { score }) {
    this._score = score;
    this._stop = new AbortController();
    this._knobs = [...element.querySelectorAll("[data-knob]")].map((each) => this._wire(each));
    score.addEventListener("change", () => this.show(), { signal: this._stop.signal });
    this.show();
  }

  destroy() {
    this._stop.abort();
  }

  _wire(element) {
    const knob = {
      name: element.dataset.knob,
      initial: Number(element.dataset.default),
      slider: element.querySelector("input[type=range]"),
      field: element.querySelector(".knob-field input"),
      also: element.querySelector(".knob-also"),
      gesture: null,
      typing: false,
    };
    knob.slider.addEventListener("input", () => {
      knob.gesture ??= newGesture();
      knob.field.value = knob.slider.value;
      this._also(knob, Number(knob.slider.value));
      this._send("drag", knob, Number(knob.slider.value));
    });
    knob.slider.addEventListener("change", () => {
      knob.gesture = null;
    });
    knob.slider.addEventListener("dblclick", () => this._send("do", knob, knob.initial));
    knob.field.addEventListener("input", () => {
      knob.typing = true;
    });
    knob.field.addEventListener("change", () => this._typed(knob));
    knob.field.addEventListener("keydown", (event) => this._key(event, knob));
    knob.field.addEventListener("dblclick", () => this._send("do", knob, knob.initial));
    return knob;
  }

  _send(how, knob, value) {
    const gesture = knob.gesture ?? undefined;
    return saying(() => this._score[how]("set_settings", { settings: { [knob.name]: value }, gesture }));
  }

  async _typed(knob) {
    const value = typed(knob.field.value);
    if (Number.isNaN(value)) {
      say(`“${knob.field.value}” is not a number; the setting stays as it was.`, { trouble: true });
    } else {
      await this._send("do", knob, value);
    }
    knob.typing = false;
    this.show();
  }

  _key(event, knob) {
    const way = { ArrowUp: 1, ArrowDown: -1 }[event.key];
    if (event.key === "Enter") knob.field.blur();
    if (event.key === "Escape") {
      knob.typing = false;
      this.show();
      knob.field.blur();
    }
    if (!way) return;
    event.preventDefault();
    const step = Number(knob.slider.step) * (event.shiftKey ? 10 : 1);
    const from = typed(knob.field.value);
    const value = Number(((Number.isNaN(from) ? this._score.doc.settings[knob.name] : from) + way * step).toFixed(3));
    knob.typing = false;
    knob.field.value = value;
    this._send("do", knob, value);
  }

  _also(knob, value) {
    if (knob.also) knob.also.textContent = `${figure(100 * amplitude(value), 1)} %`;
  }

  /** Show the settings as they are, except where the person is at work. */
  show() {
    const settings = this._score.doc?.settings;
    if (!settings) return;
    for (const knob of this._knobs) {
      const value = settings[knob.name];
      if (knob.gesture === null) {
        knob.slider.value = value;
        if (!knob.typing) knob.field.value = figure(value, value % 1 ? 1 : 0);
        this._also(knob, value);
      }
    }
  }
}
