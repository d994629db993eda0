// What a knob of the dip's shape is set for: all dips, one pecking pair, or the chosen passage alone. Events: "change".

import { release } from "../ground/focus_keeper.js";
import { saying } from "../ground/said.js";
import { SHAPING } from "../plain/vocabulary.js";


export class Scope extends EventTarget {
  constructor({ pageDoc, selection }) {
    super();
    this.pageDoc = pageDoc;
    this.selection = selection;
    this.kind = "all"; // or "passage", or "upper>lower"
    pageDoc.addEventListener("change", () => this._keep());
    selection.addEventListener("change", () => this.kind === "passage" && this._tell());
  }

  get passage() {
    return this.pageDoc.doc?.passages[this.selection.passage] ?? null;
  }

  get pair() {
    return this.pageDoc.doc?.pairs.find((pair) => this.kind === `${pair.upper}>${pair.lower}`) ?? null;
  }

  /** The pair whose settings are in force in the scope: the one it is set for, or that of the passage. */
  get inForce() {
    if (this.kind !== "passage") return this.pair;
    const name = this.passage?.pair ?? this.pageDoc.doc?.over;
    return this.pageDoc.doc?.pairs.find((pair) => name === `${pair.upper}>${pair.lower}`) ?? null;
  }

  set(kind) {
    this.kind = kind;
    this._tell();
  }

  /** Does a setting follow the scope, or is it always the project's? */
  follows(name) {
    return this.kind !== "all" && SHAPING.has(name);
  }

  /** What is this setting in the scope. */
  value(name) {
    const { settings } = this.pageDoc.doc;
    if (!this.follows(name)) return settings[name];
    return this._own()[name] ?? this._now(name) ?? this.inForce?.settings[name] ?? settings[name];
  }

  /** How deep a dip by clearance is just now, where an amount is asked for. */
  _now(name) {
    return name === "amount_db" && this.kind === "passage" && this.duckBy === "clearance" ? Math.round(this.passage.dip.amount_db * 2) / 2 : undefined;
  }

  /** The setting that says how clear speech is to stand, by what clearance is measured in. */
  get wish() {
    return this.pageDoc.doc.settings.clear_in === "intelligibility" ? "wish_sii" : "wish_lu";
  }

  /** What says how deep the dips of the scope are: "amount" or "clearance". */
  get duckBy() {
    const { settings } = this.pageDoc.doc;
    const own = this._own();
    if (own.wish_lu !== undefined || own.wish_sii !== undefined) return "clearance";
    if (own.amount_db !== undefined) return "amount";
    return (this.kind === "all" ? settings : (this.inForce?.settings ?? settings)).duck_by;
  }

  /** Go by an amount, or by clearance. @param {string} by */
  goBy(by) {
    if (this.kind === "all") return this.send({ duck_by: by });
    const name = by === "clearance" ? this.wish : "amount_db";
    return this.send({ [name]: this.value(name) });
  }

  /** Is it set for this scope, not taken from the project? */
  isOwn(name) {
    return this.follows(name) && this._own()[name] !== undefined;
  }

  _own() {
    return (this.kind === "passage" ? this.passage?.own : this.pair?.own) ?? {};
  }

  /** Set values for what the scope says; a value of null follows the project again. */
  send(values, /** @type {{gesture?: string, dragging?: boolean}} */ { gesture, dragging = false } = {}) {
    const way = dragging ? "drag" : "do";
    const names = Object.keys(values);
    if (!names.some((name) => this.follows(name))) return this.pageDoc[way]("set_settings", { settings: values, gesture });
    if (this.kind === "passage") return this.pageDoc[way]("set_passage", { index: this.selection.passage, own: values, gesture });
    const { upper, lower } = this.pair;
    return this.pageDoc[way]("set_pair", { upper, lower, own: values, gesture });
  }

  _keep() {
    if ((this.kind === "passage" && !this.passage) || (this.kind.includes(">") && !this.pair)) this.kind = "all";
    this._tell();
  }

  _tell() {
    this.dispatchEvent(new Event("change"));
  }
}

/** A choice that belongs to the scope. */
class ScopeSelect {
  constructor(select, { scope }, choose) {
    this._select = select;
    this._scope = scope;
    this._stop = new AbortController();
    scope.addEventListener("change", () => this._show(), { signal: this._stop.signal });
    select.addEventListener("change", () => {
      choose(select.value);
      release(select);
    });
    this._show();
  }

  destroy() {
    this._stop.abort();
  }

  /** Show what is chosen now; each choice knows how. */
  _show() {}
}

/** The choice between an amount and a clearance; it stands where the name of that setting would. */
export class DuckBySelect extends ScopeSelect {
  constructor(select, { scope }) {
    super(select, { scope }, (by) => saying(() => scope.goBy(by)));
  }

  _show() {
    if (!this._scope.pageDoc.doc) return;
    this._select.value = this._scope.duckBy;
    const tray = this._select.closest("[data-by]");
    tray.dataset.by = this._scope.duckBy;
    tray.dataset.wish = this._scope.wish;
    this._select.classList.toggle("own", ["amount_db", "wish_lu", "wish_sii"].some((name) => this._scope.isOwn(name)));
  }
}

/** The list to choose the scope from. */
export class ScopeList extends ScopeSelect {
  constructor(select, { scope }) {
    super(select, { scope }, (kind) => scope.set(kind));
  }

  _show() {
    const { doc } = this._scope.pageDoc;
    if (!doc) return;
    const choices = [["all", "all dips"]];
    if (this._scope.passage) choices.push(["passage", `passage ${this._scope.selection.passage + 1} alone`]);
    for (const pair of doc.pairs) choices.push([`${pair.upper}>${pair.lower}`, `${pair.lower_word} under ${pair.upper_word}`]);
    const told = JSON.stringify(choices);
    if (told !== this._told) {
      this._told = told;
      this._select.replaceChildren(...choices.map(([value, text]) => new Option(text, value)));
    }
    this._select.value = this._scope.kind;
  }
}
