// Settings as slider and field, and as a selection between words.

import { FigureField } from "../ground/figure_field.js";
import { release } from "../ground/focus_keeper.js";
import { saying } from "../ground/said.js";
import { amplitude, figure } from "../plain/units.js";

export class Knobs {
  /**
   * @param {HTMLElement} element
   * @param {{pageDoc: import("../project/page_document.js").PageDocument, scope?: import("./scope.js").Scope | null}} pieces
   *   `scope`: what the knobs are set for; none: the project
   */
  constructor(element, { pageDoc, scope = null }) {
    this._pageDoc = pageDoc;
    this._scope = scope;
    this._stop = new AbortController();
    this._knobs = [...element.querySelectorAll("[data-knob]")].map((each) => this._wire(each));
    this._options = [...element.querySelectorAll("[data-option]")].map((each) => this._wireOption(each));
    (scope ?? pageDoc).addEventListener("change", () => this.show(), { signal: this._stop.signal });
    this.show();
  }

  destroy() {
    this._stop.abort();
  }

  _send(values, how = {}) {
    if (this._scope) return saying(() => this._scope.send(values, how));
    return saying(() => this._pageDoc[how.dragging ? "drag" : "do"]("set_settings", { settings: values, gesture: how.gesture }));
  }

  _value(name) {
    return this._scope ? this._scope.value(name) : this._pageDoc.doc.settings[name];
  }

  _wire(element) {
    const name = element.dataset.knob;
    const also = element.querySelector(".knob-also");
    const slider = element.querySelector("input[type=range]");
    const send = (value, how) => {
      if (also) also.textContent = percent(value);
      return this._send({ [name]: value }, how);
    };
    const usual = () => (this._scope?.isOwn(name) ? null : Number(element.dataset.default));
    const field = new FigureField(element.querySelector(".knob-field input"), {
      slider,
      format: (value) => figure(value, value % 1 ? (Math.abs(value * 10) % 1 > 1e-6 ? 2 : 1) : 0),
      unit: element.dataset.unit,
      frame_s: () => this._pageDoc.frame_s,
      step: Number(slider.step),
      what: "the setting",
      reset: () => this._send({ [name]: usual() }),
      send,
    });
    return { element, name, also, field };
  }

  _wireOption(element) {
    const name = element.dataset.option;
    const select = element.querySelector("select");
    select.addEventListener("change", () => {
      this._send({ [name]: select.value });
      release(select);
    });
    return { element, name, select };
  }

  /** Show the settings as they are, except where the person is at work. */
  show() {
    if (!this._pageDoc.doc) return;
    for (const { element, name, also, field } of this._knobs) {
      const value = this._value(name);
      field.show(value);
      if (also && !field.busy) also.textContent = percent(value);
      this._markOwn(element, name);
    }
    for (const { element, name, select } of this._options) {
      select.value = this._value(name);
      this._markOwn(element, name);
    }
  }

  /** Its own here, not what the film has: marked, and the mark says so. */
  _markOwn(element, name) {
    const own = this._scope?.isOwn(name) ?? false;
    element.dataset.help ??= element.title;
    element.classList.toggle("own", own);
    element.title = own ? `⚲ Its own here; a double click on the figure lets it follow again. ${element.dataset.help}` : element.dataset.help;
  }
}

const percent = (gain_db) => `${figure(100 * amplitude(gain_db), 1)} %`;
