// The keys: the table of actions binds them and writes the sheet that shows them; a person may choose others.

import { toFilm } from "../ground/focus_keeper.js";
import { HAND_MOVES } from "../plain/hand_moves.js";
import { halfTyped } from "../ground/half_typed.js";
import { say } from "../ground/said.js";
import { asWritten, commandHeld, strokeOf } from "../ground/system_keys.js";

const KEPT = "jay-lantern: own keys";

/** What goes on while its key is held down; all else happens once however long that is. */
const HELD = /^(second|frame|edit|passage-|marker-|point-before|point-after|choose|nudge|slip|louder|softer|zoom-in|zoom-out|undo|redo)/;
/** What may be done with a card open, or the focus on a button beside the timeline: nothing there takes something away. */
const IN_CARD = /^(undo|redo|history|keys|play)$/;
const TAKES_AWAY = /^(delete|cut)/;

/** Binds the actions to their keys. Events: "change" when a key is another one. */
export class Keys extends EventTarget {
  /**
   * @param {import("./actions.js").Action[]} table `keys` such as "Space" or "Ctrl+Z", several by " or "
   * @param {HTMLDialogElement} dialog the sheet
   */
  constructor(table, dialog) {
    super();
    this._table = table;
    this._dialog = dialog;
    this._waiting = null;
    this._own = readOwn();
    this._bind();
    this._list = dialog.querySelector(".keys-list");
    this._search = dialog.querySelector("[data-keys-search]");
    this._search.addEventListener("input", () => this._find());
    dialog.querySelector("[data-keys-reset]").addEventListener("click", () => this._reset());
    dialog.addEventListener("keydown", (event) => this._choose(event), { capture: true });
    dialog.addEventListener("close", () => {
      this._wait(null);
      this._list.replaceChildren();
    });
    document.addEventListener("keydown", (event) => this._press(event));
    document.addEventListener("focusin", (/** @type {any} */ { target }) => (this._entered = target.matches?.("input:not([type=range], [type=checkbox])") ? { field: target, value: target.value } : null));
  }

  /** Show the sheet. */
  show() {
    this._search.value = "";
    this._write();
    this._dialog.showModal();
  }

  /** The first key of an action, for words and titles; "" if it has none. */
  of(id) {
    return asWritten(this._table.find((row) => row.id === id).bound[0] ?? "");
  }

  /** Give every element that names its action (`data-keyed`) its key in the title. */
  mark(root = document) {
    for (const each of root.querySelectorAll("[data-keyed]")) {
      each.dataset.words ??= asWritten(each.title);
      const key = this.of(each.dataset.keyed);
      each.title = key ? `${each.dataset.words} (${key})` : each.dataset.words;
    }
  }

  _keysOf(row) {
    return (this._own[row.id] ?? row.keys ?? "").split(" or ").filter(Boolean);
  }

  _bind() {
    this._bound = new Map();
    const chosen = this._table.filter((row) => row.id in this._own);
    for (const row of [...chosen, ...this._table.filter((row) => !(row.id in this._own))]) {
      row.bound = this._keysOf(row).filter((key) => !this._bound.has(key)); // what a person chose goes before what was there
      for (const key of row.bound) this._bound.set(key, row);
    }
  }

  _press(event) {
    if (event.defaultPrevented || document.querySelector("dialog[open]")) return;
    if (event.key === "Escape" && event.target.matches?.("input, select") && !document.querySelector(".drop-card:popover-open")) {
      if (this._entered?.field === event.target) event.target.value = this._entered.value; // what was typed is given up
      toFilm(); // out of the field
      return;
    }
    const row = this._bound.get(strokeOf(event));
    if (typing(event) && !passes(row, event)) return;
    if (!row || !allowed(row.id, event.target)) return;
    event.preventDefault();
    if (!event.repeat || HELD.test(row.id)) row.run();
  }

  // — the sheet —

  _write() {
    const groups = [...new Set(this._table.map((row) => row.group))];
    const keyed = groups.map((group) => section(group, this._table.filter((row) => row.group === group).map((row) => this._line(row))));
    const moves = HAND_MOVES.map(({ group, rows }) => section(group, rows.map(([does, says]) => moveLine(does, says))));
    this._list.replaceChildren(...keyed, ...moves);
    this._find();
  }

  /** Show what has all the words that are looked for, in a key or in what it does. */
  _find() {
    const wanted = this._search.value.toLowerCase().split(/\s+/).filter(Boolean);
    let found = 0;
    for (const each of this._list.children) {
      const group = each.firstElementChild.textContent.toLowerCase();
      const lines = [...each.querySelectorAll("li")];
      for (const line of lines) line.hidden = !wanted.every((word) => `${line.textContent} ${line.dataset.keys} ${group}`.toLowerCase().includes(word));
      each.hidden = lines.every((line) => line.hidden);
      found += lines.filter((line) => !line.hidden).length;
    }
    this._say(wanted.length ? `${found || "Nothing"} found.` : "");
  }

  _line(row) {
    const line = document.createElement("li");
    const button = document.createElement("button");
    button.type = "button";
    button.dataset.action = row.id;
    button.title = "Choose another key";
    button.classList.toggle("own-key", row.id in this._own);
    const keys = row.bound;
    button.append(...(keys.length ? keys.flatMap((key, i) => (i ? [" ", cap(asWritten(key))] : [cap(asWritten(key))])) : ["—"]));
    button.setAttribute("aria-label", `${row.says}: ${keys.map(asWritten).join(" or ") || "no key"}. Choose another`);
    button.addEventListener("click", () => this._wait(row));
    const says = document.createElement("span");
    says.textContent = asWritten(row.says);
    line.dataset.keys = keys.join(" "); // found by what other systems call them, too
    line.append(button, says);
    return line;
  }

  _button(id) {
    return this._list.querySelector(`[data-action="${id}"]`);
  }

  /** Wait for the key an action is to have; null: no longer. */
  _wait(row) {
    const before = this._waiting;
    this._waiting = row;
    if (before) this._button(before.id)?.replaceWith(this._line(before).firstElementChild);
    if (!row) return;
    const button = this._button(row.id);
    button.textContent = "press …";
    button.focus();
    this._say(`Press the key for “${row.says}”. ${asWritten("Delete")} takes its key away, Escape leaves it.`);
  }

  _choose(event) {
    const row = this._waiting;
    if (!row || /^(Shift|Control|Alt|Meta|AltGraph|Tab)$/.test(event.key)) return;
    event.preventDefault();
    event.stopPropagation();
    const key = strokeOf(event);
    const other = this._bound.get(key);
    if (key === "Escape") this._say("");
    else if (key === "Delete") this._set(row, "");
    else if (other && other !== row) this._say(`${asWritten(key)} is taken: “${other.says}”. Choose another, or give that one another key first.`);
    else this._set(row, key);
    this._wait(null);
    this._button(row.id).focus();
  }

  _set(row, keys) {
    this._own = { ...this._own, [row.id]: keys };
    if (keys === row.keys) delete this._own[row.id];
    this._keep();
    this._say(keys ? `“${row.says}” is ${asWritten(keys)} now.` : `“${row.says}” has no key now.`);
  }

  _reset() {
    this._wait(null);
    this._own = {};
    this._keep();
    this._say("All keys are as they were made.");
  }

  _keep() {
    localStorage.setItem(KEPT, JSON.stringify(this._own));
    this._bind();
    this._write();
    this.dispatchEvent(new Event("change"));
  }

  _say(words) {
    this._dialog.querySelector("[data-keys-said]").textContent = words;
  }
}

function section(group, lines) {
  const made = document.createElement("section");
  const title = document.createElement("h3");
  title.textContent = group;
  const list = document.createElement("ul");
  list.append(...lines);
  made.append(title, list);
  return made;
}

function moveLine(does, says) {
  const line = document.createElement("li");
  const [hand, what] = [asWritten(does), says].map((words) => {
    const each = document.createElement("span");
    each.textContent = words;
    return each;
  });
  hand.className = "hand-move";
  line.dataset.keys = does;
  line.append(hand, what);
  return line;
}

function cap(key) {
  const made = document.createElement("kbd");
  made.textContent = key;
  return made;
}

function readOwn() {
  try {
    const found = JSON.parse(localStorage.getItem(KEPT)) ?? {};
    return Object.fromEntries(Object.entries(found).filter(([, keys]) => typeof keys === "string"));
  } catch {
    say("Your own keys could not be read; the usual ones hold.");
    return {};
  }
}

/** May an action be done from where the focus is? What is open over the film holds the keys. */
function allowed(id, target) {
  if (document.querySelector(".menu")) return false;
  if (document.querySelector(".drop-card:popover-open")) return IN_CARD.test(id);
  const beside = target.closest?.("button:not(.clip), a, summary, label, [role=slider]");
  return !(beside && TAKES_AWAY.test(id));
}

/** A button pressed with the mouse gives the keys back: Space is for playing. */
export function giveKeysBack() {
  document.addEventListener("click", (event) => {
    const pressed = event.detail > 0 && !event.target.closest?.("dialog, .drop-card") && event.target.closest?.("button:not(.clip), input[type=range], input[type=checkbox]");
    if (pressed && document.activeElement === pressed) toFilm();
  });
}

/** Steps back, and Space beside a figure, are no text while nothing is half typed. */
function passes(row, event) {
  const at = event.target;
  if (row && row.id.startsWith("part-")) return true;
  if (!row || !at.matches?.("input, textarea, select") || halfTyped(at)) return false;
  return (/^(undo|redo)$/.test(row.id) && commandHeld(event)) || (row.id === "play" && event.key === " " && at.inputMode === "decimal");
}

function typing(event) {
  const at = event.target;
  if (at.matches?.("input[type=range]")) return /^(Arrow|Home|End|Page)/.test(event.key);
  if (at.matches?.("input[type=checkbox]")) return event.key === " ";
  if (at.matches?.("input, textarea, select")) return true;
  return event.key === " " && at.matches?.("button, summary") && !at.classList.contains("clip");
}
