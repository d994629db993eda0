// Captions over the lanes: a row for each file of them, and the text of the moment over the picture.

import { getJson } from "../ground/api.js";
import { askFigures } from "../ground/ask_figures.js";
import { fitted } from "../ground/canvas.js";
import { cueAt, cuesWithin } from "../plain/cues.js";
import { newGesture } from "../ground/gesture.js";
import { NIGHT } from "../plain/look.js";
import { openMenu } from "../ground/menu.js";
import { saying } from "../ground/said.js";
import { RATE, clock } from "../plain/units.js";
import { ENCODINGS } from "../plain/vocabulary.js";

const HEIGHT = 22;
const PAPER = "#E9E1CF";
const LEAST_WORDS_PX = 26; // narrower, a cue is a block without words
const WORDS = '12px "Hyperlegible", sans-serif';

export class CaptionLanes {
  /** @param {HTMLElement} box @param {{timeline: any, pageDoc: any}} parts */
  constructor(box, { timeline, pageDoc }) {
    this._box = box;
    this._timeline = timeline;
    this._pageDoc = pageDoc;
    this._cues = {}; // by number of the captions
    this._rows = new Map();
    this._over = document.querySelector(".picture-caption");
    this._key = `jay-lantern: captions over the picture of project ${document.body.dataset.project}`;
    pageDoc.addEventListener("change", ({ detail }) => detail.fresh && this._changed());
  }

  get _all() {
    return this._pageDoc.doc?.captions ?? [];
  }

  /** The number of the captions that are shown over the picture, null for none. */
  get _shown() {
    const kept = localStorage.getItem(this._key);
    if (kept === "none") return null;
    return this._all.find((each) => String(each.id) === kept)?.id ?? this._all[0]?.id ?? null;
  }

  /** When cues begin, of all captions. */
  get begins() {
    return this._all.flatMap(({ id }) => this._of(id).map((cue) => cue[0]));
  }

  _changed() {
    const before = this._rows.size;
    const there = new Set(this._all.map(({ id }) => id));
    for (const [id, row] of this._rows) {
      if (there.has(id)) continue;
      row.element.remove();
      this._rows.delete(id);
    }
    for (const each of this._all) this._row(each).name.textContent = each.name;
    this._box.hidden = !this._all.length;
    if (this._rows.size !== before) this._timeline.refit();
    if (this._all.length) requestAnimationFrame(() => setTimeout(() => this._fetch()));
  }

  async _fetch() {
    const found = await saying(() => getJson(`${this._pageDoc.url}/captions`));
    if (found?.revision !== this._pageDoc.doc.revision) return;
    this._cues = found.cues;
    this._timeline.draw();
  }

  _row(captions) {
    const known = this._rows.get(captions.id);
    if (known) return known;
    const element = document.createElement("div");
    element.className = "tl-caption";
    element.innerHTML = '<div class="caption-head"><span class="caption-name"></span><button type="button" class="lane-menu" aria-haspopup="menu">⋯</button></div><canvas role="img"></canvas>';
    const [canvas, button, name] = ["canvas", "button", ".caption-name"].map((each) => element.querySelector(each));
    button.setAttribute("aria-label", `Menu of the captions ${captions.name}`);
    button.addEventListener("click", () => this._menu(captions.id, button));
    canvas.addEventListener("pointermove", (event) => this._hover(captions.id, canvas, event));
    canvas.addEventListener("click", (event) => {
      const cue = this._at(captions.id, canvas, event);
      this._timeline.seekTo(cue ? cue[0] : this._timeline.view.time(event.offsetX));
    });
    element.addEventListener("contextmenu", (event) => {
      event.preventDefault();
      this._menu(captions.id, button, { x: event.clientX, y: event.clientY });
    });
    this._box.append(element);
    const row = { element, canvas, name };
    this._rows.set(captions.id, row);
    return row;
  }

  _of(id) {
    return this._cues[id] ?? [];
  }

  _at(id, canvas, event) {
    return cueAt(this._of(id), this._timeline.view.time(event.clientX - canvas.getBoundingClientRect().left));
  }

  _hover(id, canvas, event) {
    const cue = this._at(id, canvas, event);
    const said = cue ? `${cue[2]}\n${clock(cue[0], 2)} to ${clock(cue[1], 2)}` : "";
    if (canvas.title !== said) canvas.title = said;
  }

  draw() {
    const { view } = this._timeline;
    for (const each of this._all) {
      const { canvas } = this._row(each);
      const context = fitted(canvas, view.width, HEIGHT);
      context.font = WORDS;
      context.textBaseline = "middle";
      const cues = cuesWithin(this._of(each.id), view.start_n, view.stop_n);
      canvas.setAttribute("aria-label", `Captions ${each.name}: ${each.count}, ${cues.length} of them in view`);
      for (const [start_n, stop_n, text] of cues) {
        const x = view.x(start_n);
        const width = Math.max(1.5, view.x(stop_n) - x - 1);
        context.fillStyle = PAPER;
        context.globalAlpha = 0.9;
        context.fillRect(x, 3, width, HEIGHT - 6);
        context.globalAlpha = 1;
        if (width < LEAST_WORDS_PX) continue;
        context.save();
        context.beginPath();
        context.rect(x, 0, width - 3, HEIGHT);
        context.clip();
        context.fillStyle = NIGHT.ground;
        context.fillText(text.replaceAll("\n", " "), Math.max(x, 0) + 4, HEIGHT / 2 + 1);
        context.restore();
      }
    }
  }

  /** The text of a moment, over the picture. */
  show(time_n) {
    const id = this._shown;
    const text = id === null ? "" : cuesWithin(this._of(id), time_n, time_n + 1).map((cue) => cue[2]).join("\n");
    if (this._over.textContent !== text) this._over.textContent = text;
    this._over.hidden = !text;
  }

  _menu(id, button, at = null) {
    const captions = this._all.find((each) => each.id === id);
    if (!captions) return;
    const doIt = (name, values = {}) => () => saying(() => this._pageDoc.do(name, { captions_id: id, ...values }));
    const talking = this._pageDoc.doc.lanes.filter((lane) => lane.speaks);
    const counted = talking.length > 0 && talking.every((lane) => lane.trigger === "captions");
    const over = this._shown === id;
    const items = [
      { label: "Show over the picture", on: over, run: () => localStorage.setItem(this._key, over ? "none" : String(id)) },
      { label: "Compare with the talk", on: captions.checked, run: doIt("set_captions", { checked: !captions.checked }) },
      { label: "Talk counts where captions stand", on: counted, off: !talking.length, run: () => this._count(talking, counted ? "voice" : "captions") },
      null,
      { label: "Move by …", run: () => this._move(captions) },
      { label: captions.loose ? `Tie to what lies under them (${captions.loose} not tied)` : "Tie to what lies under them", run: doIt("tie_captions") },
      { label: captions.encoding ? `Letters read as ${captions.encoding} …` : "Letters as written (UTF-8)", off: !captions.encoding, run: () => this._letters(captions, at ?? button.getBoundingClientRect(), doIt) },
      null,
      { label: "Remove", run: doIt("remove_captions") },
    ];
    const box = button.getBoundingClientRect();
    openMenu(at ?? { x: box.left, y: box.bottom + 4 }, items, `Captions ${captions.name}`);
  }

  /** How the letters of a file are read that does not say how it is written. */
  _letters(captions, at, doIt) {
    const items = ENCODINGS.map(({ word, says }) => ({ label: says, on: word === captions.encoding, run: doIt("reread_captions", { encoding: word }) }));
    openMenu({ x: at.x, y: at.y }, items, `Letters of the captions ${captions.name}`);
  }

  /** What of all talk counts as sounding: one step of the history. */
  _count(talking, trigger) {
    const gesture = newGesture();
    for (const lane of talking) saying(() => this._pageDoc.do("set_lane", { lane_id: lane.id, trigger, gesture }));
  }

  _move({ id, name }) {
    const set = (by_s) => by_s && saying(() => this._pageDoc.do("shift_captions", { captions_id: id, by_n: Math.round(by_s * RATE) }));
    askFigures(`Move the captions ${name}`, [{ label: "Later by", name: "Later by seconds, earlier with a minus", unit: "s", value: "0" }], set, "A move is a number of seconds, with a minus for earlier.");
  }
}
