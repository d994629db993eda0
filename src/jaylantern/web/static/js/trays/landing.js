// How files land on the timeline: at which time, beside what is there or among it, several in a row or each on its own.
// Remembered in this browser.

import { openMenu } from "../ground/menu.js";

const KEPT = "jay-lantern: how files land";
const HOWS = { own: "on lanes of their own", insert: "inserted: what is later moves along", overwrite: "laid over what is there" };
const ROWS = { own: "several: each on its own lane", one: "several: one after another" };
const USUAL = { how: "own", row: "own" };

export class Landing {
  constructor() {
    this._held = { ...USUAL, ...read() };
  }

  get how() {
    return this._held.how;
  }

  /** What is sent with one of `count` files that came together; `batch` names the lot. */
  values(count, batch, lane_id = null) {
    const { how, row } = this._held;
    return { how, ...(lane_id ? { lane_id } : {}), ...(count > 1 ? { batch, row } : {}) };
  }

  /** In a word or two, for the button that opens the menu. */
  get words() {
    const { how, row } = this._held;
    const said = { own: "own lanes", insert: "inserted", overwrite: "laid over" }[how];
    return row === "one" ? `${said}, in a row` : said;
  }

  /** @param {HTMLElement} button the menu opens under it */
  menu(button, changed) {
    const box = button.getBoundingClientRect();
    const item = (name) => ([value, label]) => ({ label, on: this._held[name] === value, run: () => this._set(name, value, changed) });
    openMenu({ x: box.left, y: box.bottom + 4 }, [...Object.entries(HOWS).map(item("how")), null, ...Object.entries(ROWS).map(item("row"))], "How files land");
  }

  _set(name, value, changed) {
    this._held[name] = value;
    localStorage.setItem(KEPT, JSON.stringify(this._held));
    changed();
  }
}

function read() {
  try {
    const { how, row } = JSON.parse(localStorage.getItem(KEPT)) ?? {};
    return { ...(how in HOWS ? { how } : {}), ...(row in ROWS ? { row } : {}) };
  } catch {
    return {};
  }
}
