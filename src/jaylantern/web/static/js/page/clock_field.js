// The clock: where the playhead is, and a field into which a time is typed to go there.

import { halfTyped } from "../ground/half_typed.js";
import { mended, say } from "../ground/said.js";
import { typed } from "../plain/typed.js";
import { RATE, clock } from "../plain/units.js";

export class ClockField {
  /** @param {HTMLInputElement} field @param {{pageDoc: any, goTo: (time_n: number) => void}} how */
  constructor(field, { pageDoc, goTo }) {
    this._field = field;
    this._pageDoc = pageDoc;
    this._goTo = goTo;
    field.addEventListener("change", () => this._typed());
    field.addEventListener("focus", () => field.select());
    field.addEventListener("keydown", (event) => event.key === "Enter" && field.select());
  }

  /** Show a time, unless somebody is typing another. */
  show(time_n) {
    const text = clock(time_n);
    if (this._field.value === text || halfTyped(this._field)) return;
    const selected = document.activeElement === this._field;
    this._field.value = text;
    if (selected) this._field.select();
  }

  _typed() {
    const seconds = typed(this._field.value, "s", this._pageDoc.frame_s);
    if (Number.isNaN(seconds)) {
      say(`“${this._field.value}” is not understood here: type a time, as in 1:02.5, 62.5 s or 00:01:02:12. The playhead stays where it is.`, { trouble: true });
      return;
    }
    mended();
    this._goTo(Math.max(0, Math.round(seconds * RATE)));
  }
}
