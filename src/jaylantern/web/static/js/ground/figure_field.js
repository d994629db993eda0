// A figure that can be typed, nudged with the arrow keys, dragged on a slider and reset by double-click.

import { silent } from "./api.js";
import { done } from "./focus_keeper.js";
import { KeyRun, newGesture } from "./gesture.js";
import { whenBack } from "./half_typed.js";
import { say } from "./said.js";
import { typed, understood } from "../plain/typed.js";

export class FigureField {
  /**
   * @param {HTMLInputElement} field
   * @param {object} how
   * @param {HTMLInputElement} [how.slider]
   * @param {(value: number) => string} how.format how the field shows a value
   * @param {string} how.unit what it is in; other units that can be brought to it are understood
   * @param {() => number} [how.frame_s] length of a frame of the picture, for times
   * @param {number} how.step what an arrow key adds; ten times as much with Shift
   * @param {(value: number, how: {gesture?: string, dragging: boolean}) => Promise<unknown>} how.send
   * @param {() => void} how.reset what a double-click does
   * @param {string} how.what what stays as it was when nonsense was typed
   */
  constructor(field, { slider = null, format, unit = "", frame_s, step, send, reset, what }) {
    this.field = field;
    this.slider = slider;
    this._format = format;
    this._unit = unit;
    this._step = step;
    this._send = send;
    this._reset = reset;
    this._what = what;
    this._most = Number(slider?.max ?? field.dataset.max ?? Infinity);
    this._parse = (text) => typed(text, unit, frame_s?.());
    this._run = new KeyRun();

    this._gesture = null;
    this._typing = false;
    this._value = NaN;
    this._asked = null; // { value, number }: the newest value on its way
    this._sent = 0;
    field.addEventListener("input", () => {
      this._typing = true;
    });
    field.addEventListener("change", () => this._typed());
    field.addEventListener("keydown", (event) => this._key(event));
    field.addEventListener("blur", () => this._run.end());
    field.addEventListener("dblclick", () => reset());
    slider?.addEventListener("input", () => this._drag());
    slider?.addEventListener("change", () => {
      this._gesture = null;
    });
    slider?.addEventListener("dblclick", () => reset());
  }

  /** Is the person at work on it just now? */
  get busy() {
    return this._typing || this._gesture !== null || this._asked !== null;
  }

  /** Show a value, unless the person is at work or a newer one is on its way. @param {number} value NaN: several at once */
  show(value) {
    this._value = value;
    if (this._gesture !== null || this._asked) return;
    if (this.slider) this.slider.value = Number.isNaN(value) ? 0 : value;
    this._speak(value);
    if (!this._typing) this.field.value = Number.isNaN(value) ? "several" : this._format(value);
  }

  /** What the slider says to who listens: its value with its unit. */
  _speak(value) {
    const text = Number.isNaN(value) ? "several" : this._format(value);
    this.slider?.setAttribute("aria-valuetext", this._unit && !text.endsWith(this._unit) ? `${text} ${this._unit}` : text);
  }

  _drag() {
    this._gesture ??= newGesture();
    const value = Number(this.slider.value);
    this._speak(value);
    this.field.value = this._format(value);
    this._ask(value, { gesture: this._gesture, dragging: true });
  }

  /** Send a value; until the answer to the newest is there, it is the one the field speaks of. */
  async _ask(value, how) {
    this._sent += 1;
    const number = this._sent;
    this._asked = { value, number };
    try {
      await this._send(value, how);
    } finally {
      if (this._asked?.number === number) {
        this._asked = null;
        this.show(this._value);
      }
    }
  }

  async _typed() {
    this._run.end();
    const value = this._parse(this.field.value);
    if (Number.isNaN(value)) say(`“${this.field.value}” is not understood here: type ${understood(this._unit)}. ${capital(this._what)} stays as it was.`, { trouble: true });
    else await this._ask(below(value, this.field.value, this._most), { dragging: false });
    if (silent()) {
      whenBack(this.field, () => this._typed());
      return;
    }
    this._typing = false;
    this.show(this._value);
  }

  _key(event) {
    if (event.key === "Enter") done(this.field); // what was typed is sent by then
    if (event.key === "Escape" && this._typing) {
      event.stopPropagation();
      this._typing = false;
      this.show(this._value);
      done(this.field);
      return;
    }
    const way = { ArrowUp: 1, ArrowDown: -1 }[event.key];
    if (!way) return;
    event.preventDefault();
    const from = this._asked && !this._typing ? this._asked.value : this._parse(this.field.value);
    const base = Number.isNaN(from) ? this._value : from;
    if (Number.isNaN(base)) return;
    this._typing = false;
    const value = Number((base + way * this._step * (event.shiftKey ? 10 : 1)).toFixed(3));
    this.field.value = this._format(value);
    this._ask(value, { dragging: true, gesture: this._run.of("nudge") });
  }
}

/** Where all values lie at or below zero, a plain number without a sign is meant downwards: 18 is −18. */
const below = (value, text, most) => (most <= 0 && value > 0 && !text.includes("+") && !text.includes("%") ? -value : value);
const capital = (words) => words[0].toUpperCase() + words.slice(1);
