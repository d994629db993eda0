// The amounts of pecking pairs, typed where the perches are drawn.

import { say, saying } from "./said.js";
import { typed } from "./units.js";

export class Perches {
  constructor(score) {
    this._score = score;
    document.addEventListener("change", (event) => "pairUpper" in event.target.dataset && this._set(event.target));
    document.addEventListener("keydown", (event) => {
      const field = event.target;
      if (!("pairUpper" in (field.dataset ?? {}))) return;
      const way = { ArrowUp: 0.5, ArrowDown: -0.5 }[event.key];
      if (event.key === "Enter") field.blur();
      if (!way) return;
      event.preventDefault();
      const value = typed(field.value);
      if (Number.isNaN(value)) return;
      field.value = String(Math.min(0, value + way * (event.shiftKey ? 6 : 1))).replace("-", "−");
      this._set(field);
    });
  }

  _set(field) {
    const amount_db = typed(field.value);
    if (Number.isNaN(amount_db)) {
      say(`“${field.value}” is not a number; the amount stays as it was.`, { trouble: true });
      field.value = field.defaultValue;
      return;
    }
    const { pairUpper: upper, pairLower: lower } = field.dataset;
    saying(() => this._score.do("set_pair", { upper, lower, own: { amount_db: -Math.abs(amount_db) } }));
  }
}
