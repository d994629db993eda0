// Undo and redo as a person means them: the selection of clips comes back with what was done to them, and what was done in
// another window is not taken back before it was said.

import { say } from "../ground/said.js";
import { clipIds } from "../plain/clips.js";
import { chosenAfter, madeElsewhere } from "../plain/steps.js";

const MOST = 500;

export class StepsBack {
  constructor({ pageDoc, selection }) {
    this._pageDoc = pageDoc;
    this._selection = selection;
    this._before = new Map(); // step of the history → clips chosen before it
    this._newest = 0; // the highest step seen
    this._others = []; // steps made in other windows, [from, to] by number
    this._told = null; // a step of another window that was spoken of
    this._chosen = [];
    this._wanted = null;
    pageDoc.addEventListener("doing", () => (this._chosen = [...selection.clips]));
    pageDoc.addEventListener("undo", ({ detail }) => (this._wanted = { way: "undo", id: detail, chosen: [...selection.clips] }));
    pageDoc.addEventListener("redo", ({ detail }) => (this._wanted = { way: "redo", id: detail, chosen: [...selection.clips] }));
  }

  /** A new document is there; before the selection is looked through for what is gone. @param {{mine: boolean, foreign: boolean}} how */
  take(doc, { mine, foreign }) {
    const id = doc.undo_id;
    if (foreign && id > this._newest) this._others.push([this._newest + 1, id]);
    this._newest = Math.max(this._newest, id ?? 0);
    if (this._wanted) this._choose(doc);
    else if (mine && id !== null && !this._before.has(id)) this._remember(id, this._chosen);
  }

  _remember(id, chosen) {
    this._before.set(id, chosen);
    if (this._before.size > MOST) this._before.delete(this._before.keys().next().value);
  }

  /** After a step back what was chosen before it is chosen again; where that is not known, what came back with it. */
  _choose(doc) {
    const { way, id, chosen } = this._wanted;
    this._wanted = null;
    const there = clipIds(doc);
    if (way === "redo") this._remember(id, chosen);
    const known = (way === "undo" && this._before.get(id)) || null;
    const back = chosenAfter({ known, was: this._there ?? there, there, chosen });
    if (back) this._selection.choose(back);
  }

  /** What is there, to be compared with the next document. */
  keep(doc) {
    this._there = clipIds(doc);
  }

  /** May the last step be taken back now? Not at the first asking where another window made it: that is said first. */
  mayUndo() {
    const { undo: label, undo_id: id } = this._pageDoc.doc;
    if (!madeElsewhere(id, this._others) || this._told === id) return true;
    this._told = id;
    say(`The last step, “${label}”, was made in another window. Undo again to take it back.`);
    return false;
  }
}
