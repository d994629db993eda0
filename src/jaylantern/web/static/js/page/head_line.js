// The line at the top of a project's page: its name, what can be undone and done again, when it was kept.

import { done } from "../ground/focus_keeper.js";
import { halfTyped, sendTyped } from "../ground/half_typed.js";

const by = (id) => document.getElementById(id);

export class HeadLine {
  constructor({ pageDoc, act }) {
    this._pageDoc = pageDoc;
    by("undo").addEventListener("click", () => act("undo"));
    by("redo").addEventListener("click", () => act("redo"));
    by("film-name").addEventListener("change", ({ target }) => sendTyped(target, () => pageDoc.do("rename_project", { name: target.value })));
    by("film-name").addEventListener("keydown", (event) => event.key === "Enter" && done(event.target));
    this.kept(new Date(by("kept").dataset.at));
  }

  /** The document has changed. */
  show() {
    const { doc } = this._pageDoc;
    for (const way of ["undo", "redo"]) {
      by(way).setAttribute("aria-disabled", doc[way] === null); // it keeps the focus when there is nothing left
      by(way).title = doc[way] === null ? `Nothing to ${way}` : `${way === "undo" ? "Undo" : "Do again"}: ${doc[way]}`;
    }
    if (!halfTyped(by("film-name"))) by("film-name").value = doc.name;
    by("title").textContent = doc.name;
    document.title = `${doc.name} · Jay Lantern`;
  }

  kept(moment) {
    const time = moment.toLocaleTimeString("en-GB", { hour: "2-digit", minute: "2-digit" });
    by("kept").textContent = `kept ${time}`;
  }
}
