// The amounts of pecking pairs, typed where the perches are drawn.

import { done } from "./focus_keeper.js";
import { KeyRun } from "./gesture.js";
import { say, saying } from "./said.js";
import { typed, understood } from "./typed.js";

export class Perches {
  constructor(pageDoc) {
    this._pageDoc = pageDoc;
    this._run = new KeyRun();
    document.addEventListener("change", (event) => "pairUpper" in event.target.dataset && this._set(event.target));
    document.addEventListener("keydown", (event) => {
      /** @type {any} */
      const field = event.target;
      if (!("pairUpper" in (field.dataset ?? {}))) return;
      const way = { ArrowUp: 0.5, ArrowDown: -0.5 }[event.key];
      if (event.key === "Enter") done(field);
      if (!way) return;
      event.preventDefault();
      const value = typed(field.value, "dB");
      if (Number.isNaN(value)) return;
      field.value = String(Math.min(0, value + way * (event.shiftKey ? 6 : 1))).replace("-", "−");
      this._set(field, this._run.of(field.id));
    });
  }

  _set(field, gesture) {
    const amount_db = typed(field.value, "dB");
    if (Number.isNaN(amount_db)) {
      say(`“${field.value}” is not understood here: type ${understood("dB")}. The amount stays as it was.`, { trouble: true });
      field.value = field.defaultValue;
      return;
    }
    const { pairUpper: upper, pairLower: lower } = field.dataset;
    saying(() => this._pageDoc.do("set_pair", { upper, lower, own: { amount_db: -Math.abs(amount_db) }, gesture }));
  }
}
