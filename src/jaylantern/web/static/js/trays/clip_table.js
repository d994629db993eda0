// Tag: the list of all clips. What is chosen there is chosen on the timeline, and the other way round.

import { commandHeld } from "../ground/system_keys.js";

export class ClipTable {
  constructor(element, { pageDoc, selection, timeline }) {
    this._element = element;
    this._pageDoc = pageDoc;
    this._selection = selection;
    this._timeline = timeline;
    this._stop = new AbortController();
    const options = { signal: this._stop.signal };
    selection.addEventListener("change", () => this.show({ follow: true }), options);
    document.body.addEventListener("htmx:afterSwap", (event) => element.contains(event.target) && this.show({ follow: false }), options);
    element.addEventListener("click", (event) => this._click(event), options);
    element.addEventListener("keydown", (event) => this._key(event), options);
    this.show({ follow: true });
  }

  destroy() {
    this._stop.abort();
  }

  get _rows() {
    return [...this._element.querySelectorAll("tr[data-clip]")];
  }

  _click(event) {
    const row = event.target.closest("tr[data-clip]");
    if (!row || event.target.closest("button:not(.clip-name)")) return;
    this._chooseRow(row, event);
  }

  _chooseRow(row, /** @type {any} */ event = {}) {
    const id = Number(row.dataset.clip);
    const ids = this._rows.map((each) => Number(each.dataset.clip));
    if (commandHeld(event)) {
      this._selection.toggle(id);
    } else if (event.shiftKey && ids.includes(this._selection.lead)) {
      const [a, b] = [ids.indexOf(this._selection.lead), ids.indexOf(id)];
      const within = ids.slice(Math.min(a, b), Math.max(a, b) + 1);
      this._selection.choose([...within.filter((each) => each !== id), id]);
    } else {
      this._selection.choose([id]);
      this._timeline.reveal(this._pageDoc.clip(id).clip.start_n);
    }
  }

  _key(event) {
    const way = { ArrowDown: 1, ArrowUp: -1 }[event.key];
    const row = event.target.closest("tr[data-clip]");
    if (!way || !row || event.altKey || event.ctrlKey || event.shiftKey) return;
    const next = this._rows[this._rows.indexOf(row) + way];
    event.preventDefault();
    event.stopPropagation();
    next?.querySelector(".clip-name").focus();
    if (next) this._chooseRow(next);
  }

  /** Mark what is chosen; with `follow`, bring it into view. */
  show({ follow }) {
    let first = null;
    for (const row of this._rows) {
      const chosen = this._selection.clips.has(Number(row.dataset.clip));
      row.classList.toggle("chosen", chosen);
      row.setAttribute("aria-selected", chosen);
      if (chosen) first ??= row;
    }
    if (follow) first?.scrollIntoView({ block: "nearest" });
    const count = this._selection.clips.size;
    for (const button of document.querySelectorAll("[data-tags-chosen]")) button.disabled = !count;
    const said = document.getElementById("tag-count");
    if (said) said.textContent = count ? `${count} chosen` : "none chosen";
  }
}
