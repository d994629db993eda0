// The dip picture: the dip of the chosen passage over its real sound. Its corners are handles for the settings.

import { fitted, oncePerFrame } from "../ground/canvas.js";
import { drawSound } from "../timeline/lane_drawing.js";
import { deepest } from "../plain/curve.js";
import { strokeCurve } from "../ground/curve_drawing.js";
import { KeyRun, newGesture } from "../ground/gesture.js";
import { viewed } from "../project/page_document.js";
import { saying } from "../ground/said.js";
import { RATE, amplitude, clock, figure } from "../plain/units.js";
import { SPEAKS } from "../plain/vocabulary.js";
import { dipWords } from "../plain/words.js";

const SVG = "http://www.w3.org/2000/svg";
const AROUND_N = RATE * 1.2;
const WORDS_PX = 17; // a strip over the sound, and one under it, in which the words of the corners stand
const LETTER_PX = 7;
const MS = RATE / 1000;
const HANDLES = [
  { corner: "from_n", name: "Corner of attack", horizontal: "attack_ms" },
  { corner: "down_n", name: "Corner of lead-in and duck amount", horizontal: "lead_in_ms", vertical: true },
  { corner: "rise_n", name: "Corner of hold and duck amount", horizontal: "hold_ms", vertical: true },
  { corner: "up_n", name: "Corner of release", horizontal: "release_ms" },
];

export class DipPicture {
  constructor(element, { pageDoc, selection, peaks, said, scope }) {
    this._element = element;
    this._pageDoc = pageDoc;
    this._selection = selection;
    this._peaks = peaks;
    this._said = said;
    this._scope = scope;
    this._frozen = null;
    this._run = new KeyRun();
    /** Where each corner lies. @type {Record<string, number[]>} */
    this._origin = {};
    element.innerHTML = '<canvas role="img" aria-label="No passage yet"></canvas><svg role="group" aria-label="Corners of the dip"></svg><p class="dip-none" hidden></p>';
    this._canvas = element.querySelector("canvas");
    this._svg = element.querySelector("svg");
    this._none = element.querySelector(".dip-none");
    this._handles = HANDLES.map((handle) => this._makeHandle(handle));
    this.draw = oncePerFrame(() => this._draw());
    this._stop = new AbortController();
    this._looking = () => this._inView();
    pageDoc.views.push(this._looking);
    pageDoc.addEventListener("curves", this.draw, { signal: this._stop.signal });
    scope.addEventListener("change", this.draw, { signal: this._stop.signal });
    selection.addEventListener("change", this.draw, { signal: this._stop.signal });
    peaks.addEventListener("arrived", this.draw, { signal: this._stop.signal });
    this._watch = new ResizeObserver(() => this.draw());
    this._watch.observe(element);
    this.draw();
  }

  destroy() {
    this._stop.abort();
    this._pageDoc.views = this._pageDoc.views.filter((each) => each !== this._looking);
    this._watch.disconnect();
    this.draw.cancel();
  }

  _inView() {
    const passage = this._passage;
    if (!passage) return null;
    const { start_n, stop_n } = this._view(passage, 1);
    return viewed(start_n, stop_n);
  }

  get _passage() {
    return this._pageDoc.doc?.passages[this._selection.passage] ?? null;
  }

  /** What is in view: start and scale, in the form the lane drawing reads. */
  _view(passage, width) {
    const { dip } = passage;
    const start_n = Math.min(dip.from_n, passage.start_n) - AROUND_N;
    const stop_n = Math.max(dip.up_n, passage.stop_n) + AROUND_N;
    const n_per_px = (stop_n - start_n) / width;
    return {
      start_n, stop_n, n_per_px, width,
      x: (time_n) => (time_n - start_n) / n_per_px,
      time: (x) => start_n + x * n_per_px,
    };
  }

  _scale(height) {
    const { leading } = this._pageDoc;
    const drawn = this._pageDoc.doc.mode === "passage" && this._depth === "amount_db" ? this._scope.value("amount_db") - 6 : 0;
    const floor_db = Math.min(-20, drawn, leading ? deepest(leading) - 6 : 0);
    const [top, room] = [WORDS_PX + 4, height - 2 * WORDS_PX - 8];
    return { floor_db, top, bottom: top + room, y: (db) => top + (room * db) / floor_db };
  }

  _draw() {
    const width = this._element.clientWidth;
    const height = this._element.clientHeight;
    const context = fitted(this._canvas, width, height);
    const passage = this._passage;
    const handles = passage && !passage.none && this._pageDoc.doc.mode === "passage";
    this._svg.classList.toggle("away", !handles);
    this._none.hidden = Boolean(passage);
    if (!passage) {
      const { aside } = this._selection;
      this._none.textContent = aside ? `${clock(aside.start_n, 1)} to ${clock(aside.stop_n, 1)} counts as no speech now. “Lift” takes that back; choose a passage to see its dip.` : "The dip is drawn here over the sound of a passage, as soon as there is one.";
      this._said.textContent = "";
      return;
    }
    this._said.textContent = `passage ${this._selection.passage + 1}${passage.none ? " · no dip" : ""}`;
    this._said.title = handles ? "Drag any corner of the dip" : "";
    const value = (name) => this._scope.value(name);
    const shape = { attack_ms: value("attack_ms"), hold_ms: value("hold_ms"), release_ms: value(releaseOf(passage)) };
    this._canvas.setAttribute("aria-label", dipWords(passage, this._selection.passage, shape));
    const view = this._frozen ?? this._view(passage, width);
    this._pageDoc.look();
    this._drawSound(context, view, passage, height);
    this._drawDip(context, view, height);
    if (handles) this._placeHandles(view, passage, height);
  }

  _drawSound(context, view, passage, height) {
    context.fillStyle = "rgba(111,178,240,.12)";
    context.fillRect(view.x(passage.start_n), 0, (passage.stop_n - passage.start_n) / view.n_per_px, height);
    const { doc } = this._pageDoc;
    const room = height - 2 * WORDS_PX;
    const [over, under] = [[0, 0.56], [0.56, 0.44]]; // music, and under it who speaks
    for (const lane of doc.lanes) {
      if (lane.kind !== "sound" || lane.muted) continue;
      for (const clip of lane.clips) {
        const place = clip.shown_tag === "music" ? over : SPEAKS.has(clip.shown_tag) ? under : null;
        if (!place || clip.start_n > view.stop_n || clip.start_n + clip.length_n < view.start_n) continue;
        const curve = clip.shown_tag === "music" ? this._pageDoc.curveOf(clip) : null;
        const peaks = this._peaks.get(clip.media_id, doc.media[clip.media_id]);
        const gain = amplitude(lane.gain_db + clip.gain_db) * (SPEAKS.has(clip.shown_tag) ? 1.5 : 1);
        context.save();
        context.translate(0, WORDS_PX + place[0] * room);
        drawSound(context, { view, clip, peaks, gain, height: place[1] * room, curve, strip: false, faded: false });
        context.restore();
      }
    }
  }

  _drawDip(context, view, height) {
    const curve = this._pageDoc.leading;
    if (!curve) return;
    const scale = this._scale(height);
    strokeCurve(context, { view, curve, from: view.start_n, to: view.stop_n, y: scale.y, width: 2 });
  }

  _makeHandle(handle) {
    const group = document.createElementNS(SVG, "g");
    group.setAttribute("class", "handle");
    group.setAttribute("tabindex", "0");
    group.setAttribute("role", "slider");
    group.setAttribute("aria-label", handle.name);
    group.innerHTML = '<circle class="grip" r="14"/><circle class="knot" r="5.5"/><text></text>';
    group.addEventListener("pointerdown", (event) => this._drag(event, handle, group));
    group.addEventListener("keydown", (event) => this._nudge(event, handle));
    this._svg.append(group);
    return { ...handle, group, text: group.querySelector("text") };
  }

  _placeHandles(view, passage, height) {
    const scale = this._scale(height);
    const down = scale.y(passage.dip.amount_db);
    const value = (name) => this._scope.value(name);
    this._svg.setAttribute("width", view.width);
    this._svg.setAttribute("height", height);
    const said = {
      from_n: `attack ${figure(value("attack_ms"))}`,
      down_n: `${figure(passage.dip.amount_db, 1)} dB`,
      rise_n: `hold ${figure(value("hold_ms"))}`,
      up_n: `${passage.dip.last ? "last release" : "release"} ${figure(value(releaseOf(passage)))}`,
    };
    const spoken = {
      from_n: `${said.from_n} milliseconds`,
      down_n: `down to ${said.down_n}, lead-in ${figure(value("lead_in_ms"))} milliseconds`,
      rise_n: `${said.down_n}, ${said.rise_n} milliseconds`,
      up_n: `${said.up_n} milliseconds`,
    };
    for (const handle of this._handles) {
      const { corner, group, text } = handle;
      const horizontal = nameOf(handle, passage);
      const low = corner === "down_n" || corner === "rise_n";
      this._origin[corner] = [view.x(passage.dip[corner]), low ? down : scale.y(0)];
      group.setAttribute("transform", `translate(${this._origin[corner].join(" ")})`);
      group.setAttribute("aria-valuenow", value(horizontal));
      group.setAttribute("aria-valuetext", spoken[corner]);
      text.textContent = said[corner];
    }
    this._placeWords([["from_n", "up_n", 12], ["down_n", "rise_n", height - 5]], view, passage);
  }

  /** The words of the corners in their strips, two in each, beside each other however narrow the dip is drawn. */
  _placeWords(strips, view, passage) {
    for (const [left, right, y] of strips) {
      const [a, b] = [left, right].map((corner) => this._handles.find((each) => each.corner === corner));
      const [wide_a, wide_b] = [a, b].map(({ text }) => text.textContent.length * LETTER_PX);
      const at_b = Math.min(Math.max(view.x(passage.dip[right]) - wide_b / 2, wide_a + 14), view.width - wide_b - 4);
      const at_a = Math.max(4, Math.min(view.x(passage.dip[left]) - wide_a / 2, at_b - wide_a - 8));
      for (const [{ text, corner }, at] of [[a, at_a], [b, at_b]]) {
        const [x0, y0] = this._origin[corner];
        text.setAttribute("x", String(at - x0)); // seen from its corner
        text.setAttribute("y", String(y - y0));
      }
    }
  }

  /** New settings for a corner dragged by so much. */
  _settings(handle, passage, before, by_n, by_db) {
    const { limits } = this._pageDoc.doc;
    const within = (name, value) => Math.min(Math.max(value, limits[name][0]), limits[name][1]);
    const name = nameOf(handle, passage);
    const way = { attack_ms: -1, lead_in_ms: -1 }[name] ?? 1;
    const settings = { [name]: within(name, before[name] + way * Math.round(by_n / MS / 10) * 10) };
    if (handle.vertical && by_db) {
      const depth = this._depth;
      const [more, per] = { wish_lu: [-by_db, 2], wish_sii: [-by_db / 50, 100] }[depth] ?? [by_db, 2]; // deeper is clearer
      settings[depth] = within(depth, Math.round((before[depth] + more) * per) / per);
    }
    return settings;
  }

  _drag(event, handle, group) {
    const passage = this._passage;
    if (!passage || event.button !== 0) return;
    event.preventDefault();
    group.focus();
    group.setPointerCapture(event.pointerId);
    const view = this._view(passage, this._element.clientWidth);
    const scale = this._scale(this._element.clientHeight);
    const before = this._before(handle, passage);
    const gesture = newGesture();
    const stop = new AbortController();
    this._frozen = view;
    const move = (moved) => {
      const by_n = (moved.clientX - event.clientX) * view.n_per_px;
      const by_db = ((moved.clientY - event.clientY) * scale.floor_db) / (scale.bottom - scale.top);
      const settings = this._settings(handle, passage, before, by_n, by_db);
      saying(() => this._scope.send(settings, { gesture, dragging: true }));
    };
    const done = () => {
      stop.abort();
      this._frozen = null;
      this.draw();
    };
    group.addEventListener("pointermove", move, { signal: stop.signal });
    group.addEventListener("pointerup", done, { signal: stop.signal });
    group.addEventListener("pointercancel", done, { signal: stop.signal });
  }

  _nudge(event, handle) {
    const by = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 0.5], ArrowDown: [0, -0.5] }[event.key];
    if (!by || event.altKey || event.ctrlKey || event.metaKey) return;
    event.preventDefault();
    event.stopPropagation();
    const ms = by[0] * (event.shiftKey ? 100 : 10);
    const passage = this._passage;
    const settings = this._settings(handle, passage, this._before(handle, passage), ms * MS, by[1]);
    const gesture = this._run.of(`${handle.corner} ${this._scope.kind} ${this._selection.passage}`);
    saying(() => this._scope.send(settings, { gesture, dragging: true }));
  }

  /** The setting that says how deep the dip is. */
  get _depth() {
    return this._scope.duckBy === "clearance" ? this._scope.wish : "amount_db";
  }

  /** The values a corner changes, as they are in the scope. */
  _before(handle, passage) {
    const names = [nameOf(handle, passage), ...(handle.vertical ? [this._depth] : [])];
    return Object.fromEntries(names.map((name) => [name, this._scope.value(name)]));
  }
}

/** The last dip over a piece of music has a release of its own. */
const releaseOf = (passage) => (passage.dip.last ? "last_release_ms" : "release_ms");
const nameOf = (handle, passage) => (handle.horizontal === "release_ms" ? releaseOf(passage) : handle.horizontal);

