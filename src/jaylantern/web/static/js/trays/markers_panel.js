// Lay out: the markers by name, and the in and out points.

import { done } from "../ground/focus_keeper.js";
import { halfTyped, sendTyped } from "../ground/half_typed.js";
import { saying } from "../ground/said.js";
import { clock } from "../plain/units.js";

export class MarkersPanel {
  /** @param {HTMLElement} element @param {{pageDoc: any, act: any, goTo: any, now: () => number}} pieces `now`: where the playhead is, in samples */
  constructor(element, { pageDoc, act, goTo, now }) {
    this._element = element;
    this._pageDoc = pageDoc;
    this._act = act;
    this._goTo = goTo;
    this._now = now;
    this._stop = new AbortController();
    pageDoc.addEventListener("change", () => this.show(), { signal: this._stop.signal });
    this.show();
  }

  destroy() {
    this._stop.abort();
  }

  show() {
    const { doc } = this._pageDoc;
    const at = document.activeElement;
    if (!doc || (at && this._element.contains(at) && halfTyped(at))) return;
    const list = document.createElement("ul");
    list.className = "marker-list";
    list.append(...doc.markers.map((marker) => this._row(marker)));
    const range = document.createElement("p");
    range.className = "small";
    const said = (time_n) => (time_n === null ? "not set" : clock(time_n, 2));
    range.innerHTML = `In <b class="figure"></b> · out <b class="figure"></b>`;
    const [from, to] = range.querySelectorAll("b");
    from.textContent = said(doc.in_n);
    to.textContent = said(doc.out_n);
    const row = document.createElement("div");
    row.className = "btn-row";
    const off = doc.in_n === null || doc.out_n === null;
    row.append(
      this._button("Marker at the playhead", "marker"), this._button("In here", "in"), this._button("Out here", "out"),
      this._button("Loop in to out", "loop-range", off), this._button("Cut it out of all lanes", "cut-out", off),
      this._button("Clear in and out", "clear-range", doc.in_n === null && doc.out_n === null),
    );
    const none = document.createElement("p");
    none.className = "empty";
    none.textContent = "No marker yet. M sets one at the playhead; drag its flag in the ruler to move it.";
    this._element.replaceChildren(row, range, doc.markers.length ? list : none);
  }

  _button(text, action, off = false) {
    const button = document.createElement("button");
    button.type = "button";
    button.className = "btn-line small";
    button.textContent = text;
    button.disabled = off;
    button.addEventListener("click", () => this._act(action));
    return button;
  }

  _row(marker) {
    const row = document.createElement("li");
    const time = document.createElement("button");
    time.type = "button";
    time.className = "figure marker-go";
    time.textContent = clock(marker.time_n, 2);
    time.setAttribute("aria-label", `${time.textContent}: go to marker ${marker.name}`);
    time.addEventListener("click", () => this._goTo(marker.time_n));
    const name = document.createElement("input");
    name.value = marker.name;
    name.maxLength = 80;
    name.setAttribute("aria-label", `Name of marker ${marker.name}`);
    name.addEventListener("change", () => sendTyped(name, () => this._pageDoc.do("set_marker", { marker_id: marker.id, name: name.value })));
    name.addEventListener("keydown", (event) => event.key === "Enter" && done(name));
    row.append(
      time, name,
      this._deed("Here", `Here: move marker ${marker.name} to the playhead`, () => this._pageDoc.do("set_marker", { marker_id: marker.id, at_n: this._now() })),
      this._deed("Remove", `Remove marker ${marker.name}`, () => this._pageDoc.do("remove_marker", { marker_id: marker.id })),
    );
    return row;
  }

  _deed(text, says, run) {
    const button = document.createElement("button");
    button.type = "button";
    button.className = "btn-line small";
    button.textContent = text;
    button.title = says;
    button.setAttribute("aria-label", says);
    button.addEventListener("click", () => saying(run));
    return button;
  }
}
