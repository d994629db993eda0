// Settings as slider and field.

import { FigureField } from "./figure_field.js";
import { saying } from "./said.js";
import { amplitude, figure } from "./units.js";

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
    const name = element.dataset.knob;
    const also = element.querySelector(".knob-also");
    const slider = element.querySelector("input[type=range]");
    const send = (value, { gesture, dragging }) => {
      if (also) also.textContent = percent(value);
      return saying(() => this._score[dragging ? "drag" : "do"]("set_settings", { settings: { [name]: value }, gesture }));
    };
    const field = new FigureField(element.querySelector(".knob-field input"), {
      slider,
      format: (value) => figure(value, value % 1 ? 1 : 0),
      step: Number(slider.step),
      what: "the setting",
      reset: () => send(Number(element.dataset.default), { dragging: false }),
      send,
    });
    return { name, also, field };
  }

  /** Show the settings as they are, except where the person is at work. */
  show() {
    const settings = this._score.doc?.settings;
    if (!settings) return;
    for (const { name, also, field } of this._knobs) {
      field.show(settings[name]);
      if (also && !field.busy) also.textContent = percent(settings[name]);
    }
  }
}

const percent = (gain_db) => `${figure(100 * amplitude(gain_db), 1)} %`;
