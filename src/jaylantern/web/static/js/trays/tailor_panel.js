// The Tailor tray: the ribbon, what is wished of the music, and hearing its folds.

import { Ribbon } from "./ribbon.js";
import { say, saying } from "../ground/said.js";
import { tell } from "../ground/tell.js";
import { Stretches } from "./stretches.js";
import { typed } from "../plain/typed.js";
import { RATE, clock } from "../plain/units.js";

const AROUND_N = 2 * RATE; // heard before and after a fold

export class TailorPanel {
  /** @param {HTMLElement} tray @param {{pageDoc: any, selection: any, timeline: any, player: any}} parts */
  constructor(tray, { pageDoc, selection, timeline, player }) {
    this._tray = tray;
    this._pageDoc = pageDoc;
    this._selection = selection;
    this._timeline = timeline;
    this._player = player;
    this._ribbon = null;
    this._stretches = new Stretches({ player, timeline });
    this._stop = new AbortController();
    const options = { signal: this._stop.signal };
    tray.addEventListener("htmx:configRequest", (event) => this._asked(event), options);
    tray.addEventListener("htmx:afterSettle", () => this._arrived(), options);
    tray.addEventListener("click", (event) => this._click(event), options);
    tray.addEventListener("change", (event) => this._changed(event), options);
    tray.addEventListener("submit", (event) => event.preventDefault(), options);
    selection.addEventListener("change", () => this._chosen(), options);
    this._arrived();
  }

  destroy() {
    this._stop.abort();
    this._ribbon?.destroy();
    this._stretches.hush();
  }

  /** The clip that is shown: the one chosen on the timeline where it can be, else the one picked last. */
  get _clip() {
    const lead = this._selection.lead;
    const picker = /** @type {HTMLSelectElement | null} */ (this._tray.querySelector("#tailor-clip"));
    if (!picker) return lead ?? 0;
    return [...picker.options].some((each) => Number(each.value) === lead) ? lead : Number(picker.value);
  }

  _asked(event) {
    event.detail.parameters.clip = this._picked ?? this._clip;
  }

  _chosen() {
    const picker = /** @type {HTMLSelectElement | null} */ (this._tray.querySelector("#tailor-clip"));
    this._picked = null;
    if (picker && Number(picker.value) !== this._clip) tell("jay:tailored");
  }

  _arrived() {
    const data = document.getElementById("ribbon-drawn");
    const text = data?.textContent ?? "";
    const box = document.getElementById("ribbon");
    this._drawn = data ? JSON.parse(text) : null;
    if (this._ribbon?.box === box) return;
    this._ribbon?.destroy();
    this._ribbon = box && this._drawn ? new Ribbon(box, { drawn: this._drawn, pageDoc: this._pageDoc, peaks: this._timeline.peaks, player: this._player }) : null;
    this._ribbon?.addEventListener("stretch", () => this._stretched());
    this._ribbon?.addEventListener("hear", ({ detail }) => this._hear([detail]));
    this._ribbon?.addEventListener("move", ({ detail }) => this._do("move_fold", detail));
    this._ribbon?.addEventListener("another", ({ detail }) => this._do("forbid_fold", detail));
  }

  _do(name, values) {
    return saying(() => this._pageDoc.do(name, { clip_id: this._drawn.clip, ...values }));
  }

  _stretched() {
    const { stretch } = this._ribbon;
    const said = document.getElementById("ribbon-said");
    if (said) said.textContent = stretch ? `${clock(stretch[0], 2)} to ${clock(stretch[1], 2)} ` : "Drag to choose a stretch.";
    for (const button of this._tray.querySelectorAll("[data-stretch]")) button.disabled = !stretch;
  }

  _click(event) {
    const { hear, stretch } = event.target.closest("[data-hear], [data-stretch]")?.dataset ?? {};
    if (stretch) this._mark(stretch);
    if (hear === "all") this._hear([]);
    else if (hear === "folds") this._hear(this._drawn.folds.map((_, i) => i));
    else if (hear !== undefined) this._hear([Number(hear)]);
  }

  /** Protect the chosen stretch, leave it out, or neither. */
  _mark(how) {
    const [from, to] = this._ribbon.stretch;
    const without = (spans) => spans.flatMap(([a, b]) => [[a, Math.min(b, from)], [Math.max(a, to), b]].filter(([c, d]) => c < d));
    const spans = { protect: without(this._drawn.protect), leave_out: without(this._drawn.leave_out) };
    if (how !== "free") spans[how] = [...spans[how], [from, to]].sort((a, b) => a[0] - b[0]);
    this._do("tailor_clip", spans);
  }

  _changed(event) {
    const { target } = event;
    if (target.id === "tailor-clip") {
      this._picked = Number(target.value);
      this._selection.choose([this._picked]);
      tell("jay:tailored");
    } else if (target.id === "wish-length") this._typed(target);
    else if (target.name === "keep_start" || target.name === "keep_end") this._do("tailor_clip", { [target.name]: target.checked });
  }

  _typed(field) {
    const length_n = Math.round(typed(field.value, "s") * RATE);
    if (!(length_n > 0)) say(`A length is minutes and seconds, such as 1:30, or seconds, such as 90; ${field.value} is not.`, { trouble: true });
    else this._do("tailor_clip", { length_n });
  }

  /** Hear folds one after another, each with two seconds around it; all of the clip for none. */
  _hear(folds) {
    const { start_n, offset_n, heard_n } = this._drawn;
    const at = (n) => start_n + n - offset_n;
    const spans = folds.length ? folds.map((i) => [at(this._drawn.folds[i].at_n) - AROUND_N, at(this._drawn.folds[i].at_n) + AROUND_N]) : [[start_n, start_n + heard_n]];
    this._stretches.hear(spans);
  }
}
