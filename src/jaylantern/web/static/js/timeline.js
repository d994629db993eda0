// The timeline: ruler, lanes with their clips, playhead, mini-map. Draws the score; sends what the person does.

import { fitted, oncePerFrame } from "./canvas.js";
import { gainAt } from "./curve.js";
import { drawBands, drawCurve, drawFrames, drawGlow, drawScale, drawSound } from "./lane_drawing.js";
import { LaneHead } from "./lane_head.js";
import { FIGURES, JAY, LAMP, NIGHT } from "./look.js";
import { PeaksShelf } from "./peaks.js";
import { saying } from "./said.js";
import { RATE, amplitude, clock } from "./units.js";
import { Viewport, rulerStep } from "./viewport.js";

const HEIGHT = { picture: 42, dialogue: 56, music: 114, ambience: 46, effects: 46, untagged: 56 };
const GAP_H = 4;
const MOST_GROWTH = 1.7; // how far lanes grow where there is room
const MAP_H = 20;
const RULER_H = 22;
const DRAG_PX = 4;
const WHEEL = 0.0016;

/** Events: "seek" with the time. */
export class Timeline extends EventTarget {
  constructor(element, { score, choice }) {
    super();
    this._element = element;
    this._score = score;
    this._choice = choice;
    this.view = new Viewport();
    this._rows = new Map();
    this._strips = new Map();
    this._shift = { ids: new Set(), n: 0 };
    this.draw = oncePerFrame(() => this._draw());
    this._peaks = new PeaksShelf();
    this._peaks.addEventListener("arrived", this.draw);
    this._build();
    score.addEventListener("change", () => this._changed());
    choice.addEventListener("change", () => {
      this._markChosen();
      this.draw();
    });
    this._watch = new ResizeObserver(() => this._resize());
    this._watch.observe(this._body);
  }

  get peaks() {
    return this._peaks;
  }

  destroy() {
    this._watch.disconnect();
    this.draw.cancel();
    this._element.replaceChildren();
  }

  _build() {
    this._element.innerHTML = `
      <div class="tl-ruler"><div class="tl-corner figure"></div><canvas></canvas></div>
      <div class="tl-rows" tabindex="-1"></div>
      <div class="tl-over"><div class="playhead"><i></i></div></div>
      <div class="tl-empty" hidden><strong>The timeline is empty.</strong><span>Drop a film, a narration and a piece of music anywhere on this page.</span></div>
      <div class="tl-map"><div class="tl-corner">whole film</div><canvas></canvas></div>`;
    this._body = this._element.querySelector(".tl-over");
    this._lanes = this._element.querySelector(".tl-rows");
    this._ruler = this._element.querySelector(".tl-ruler canvas");
    this._map = this._element.querySelector(".tl-map canvas");
    this._playhead = this._element.querySelector(".playhead");
    this._empty = this._element.querySelector(".tl-empty");
    this._element.addEventListener("wheel", (event) => this._wheel(event), { passive: false });
    this._ruler.addEventListener("pointerdown", (event) => this._scrub(event));
    this._map.addEventListener("pointerdown", (event) => this._dragMap(event));
    this._lanes.addEventListener("pointerdown", (event) => this._press(event));
    this._lanes.addEventListener("keydown", (event) => this._nudge(event));
    this._lanes.addEventListener("focusin", (event) => {
      const clip = event.target.closest(".clip");
      if (clip) this._choice.chooseClip(Number(clip.dataset.clip));
    });
  }

  // — what the person does —

  _x(event) {
    return event.clientX - this._ruler.getBoundingClientRect().left;
  }

  _wheel(event) {
    if (event.target.closest(".lane-head")) return;
    event.preventDefault();
    const scale = event.deltaMode === 1 ? 16 : 1;
    if (event.shiftKey || Math.abs(event.deltaX) > Math.abs(event.deltaY)) {
      this.view.scroll((event.deltaX || event.deltaY) * scale);
    } else {
      this.view.zoom(Math.exp(event.deltaY * scale * WHEEL), this._x(event));
    }
    this.draw();
  }

  /** Zoom by a factor around the middle, or around a time if that is in view. */
  zoom(factor, time_n) {
    const x = this.view.x(time_n);
    this.view.zoom(factor, x >= 0 && x <= this.view.width ? x : this.view.width / 2);
    this.draw();
  }

  fit() {
    this.view.fit();
    this.draw();
  }

  reveal(time_n) {
    if (this.view.reveal(time_n)) this.draw();
  }

  _follow(event, { move, done }) {
    const target = event.currentTarget;
    const stop = new AbortController();
    const options = { signal: stop.signal };
    target.setPointerCapture(event.pointerId);
    const end = (last) => {
      stop.abort();
      done?.(last);
    };
    target.addEventListener("pointermove", move, options);
    target.addEventListener("pointerup", () => end(true), options);
    target.addEventListener("pointercancel", () => end(false), options);
    document.addEventListener("keydown", (key) => key.key === "Escape" && end(false), options);
  }

  _seek(event) {
    this.dispatchEvent(new CustomEvent("seek", { detail: Math.max(0, Math.round(this.view.time(this._x(event)))) }));
  }

  _scrub(event) {
    if (event.button !== 0) return;
    this._seek(event);
    this._follow(event, { move: (moved) => this._seek(moved) });
  }

  _dragMap(event) {
    const go = (at) => {
      const x = at.clientX - this._map.getBoundingClientRect().left;
      const middle = (x / this.view.width) * this.view.length_n;
      this.view.scroll(this.view.x(middle) - this.view.width / 2);
      this.draw();
    };
    go(event);
    this._follow(event, { move: go });
  }

  /** A press on a lane: a click sets the playhead and chooses; a drag of a clip moves it along its lane. */
  _press(event) {
    const body = event.target.closest(".lane-body");
    if (!body || event.button !== 0) return;
    const box = event.target.closest(".clip");
    const clip_id = box ? Number(box.dataset.clip) : null;
    const from = event.clientX;
    let dragging = false;
    if (clip_id !== null) this._choice.chooseClip(clip_id);
    this._follow(event, {
      move: (moved) => {
        if (clip_id === null) return;
        dragging ||= Math.abs(moved.clientX - from) > DRAG_PX;
        if (dragging) this._preview(clip_id, Math.round((moved.clientX - from) * this.view.n_per_px));
      },
      done: (finished) => {
        if (!dragging && finished) this._seek(event);
        else if (dragging) this._drop(clip_id, finished);
      },
    });
  }

  _together(clip_id) {
    const { clip } = this._score.clip(clip_id);
    const all = this._score.doc.lanes.flatMap((lane) => lane.clips);
    return all.filter((each) => each.id === clip_id || (clip.link !== null && each.link === clip.link));
  }

  _preview(clip_id, by_n) {
    const clips = this._together(clip_id);
    const least = -Math.min(...clips.map((clip) => clip.start_n));
    this._shift = { ids: new Set(clips.map((clip) => clip.id)), n: Math.max(by_n, least) };
    this._element.classList.add("dragging");
    this.draw();
  }

  async _drop(clip_id, finished) {
    const found = this._score.clip(clip_id);
    const to_n = found ? found.clip.start_n + this._shift.n : 0;
    this._element.classList.remove("dragging");
    if (finished && found && this._shift.n) {
      await saying(() => this._score.do("move_clip", { clip_id, start_n: to_n }));
    }
    this._shift = { ids: new Set(), n: 0 };
    this.draw();
  }

  _nudge(event) {
    const box = event.target.closest(".clip");
    const way = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
    if (!box || !way || !event.altKey) return;
    event.preventDefault();
    event.stopPropagation();
    const { clip } = this._score.clip(Number(box.dataset.clip));
    const start_n = Math.max(0, clip.start_n + way * (event.shiftKey ? RATE : RATE / 10));
    saying(() => this._score.do("move_clip", { clip_id: clip.id, start_n }));
  }

  // — what is shown —

  _resize() {
    this.view.resize(this._body.clientWidth, this._score.doc?.length_n ?? 0);
    this._spread();
    this.draw();
  }

  /** Lanes share the room there is; where it is short they keep their least height and the rows scroll. */
  _spread() {
    const lanes = this._score.doc?.lanes ?? [];
    const least = lanes.map((lane) => (lane.kind === "picture" ? HEIGHT.picture : HEIGHT[lane.tag]));
    const room = this._lanes.clientHeight - GAP_H * lanes.length;
    const growth = Math.min(Math.max(room / least.reduce((sum, height) => sum + height, 0), 1), MOST_GROWTH);
    lanes.forEach((lane, i) => {
      const row = this._rows.get(lane.id);
      if (!row) return;
      row.height = Math.floor(least[i] * growth);
      row.element.style.height = `${row.height}px`;
    });
  }

  _changed() {
    const { doc } = this._score;
    const kept = new Set(doc.lanes.map((lane) => lane.id));
    for (const [id, row] of this._rows) {
      if (!kept.has(id)) {
        row.element.remove();
        this._rows.delete(id);
      }
    }
    doc.lanes.forEach((lane, i) => this._placeRow(lane, i));
    this._empty.hidden = doc.lanes.length > 0;
    this.view.resize(this._body.clientWidth, doc.length_n);
    this._spread();
    this.draw();
  }

  _placeRow(lane, i) {
    let row = this._rows.get(lane.id);
    if (!row) {
      row = { element: document.createElement("div"), head: new LaneHead(lane, this._score), clips: new Map() };
      row.element.className = "lane";
      row.body = document.createElement("div");
      row.body.className = "lane-body";
      row.canvas = document.createElement("canvas");
      row.body.append(row.canvas);
      row.element.append(row.head.element, row.body);
      this._rows.set(lane.id, row);
    }
    if (this._lanes.children[i] !== row.element) this._lanes.insertBefore(row.element, this._lanes.children[i] ?? null);
    row.head.show(lane);
    row.element.dataset.lane = lane.name;
    row.element.classList.toggle("unheard", this._unheard(lane));
    this._placeClips(row, lane);
  }

  _unheard(lane) {
    const solo = this._score.doc.lanes.some((each) => each.soloed);
    return lane.kind === "sound" && (lane.muted || (solo && !lane.soloed));
  }

  _placeClips(row, lane) {
    const kept = new Set(lane.clips.map((clip) => clip.id));
    for (const [id, box] of row.clips) {
      if (!kept.has(id)) {
        box.remove();
        row.clips.delete(id);
      }
    }
    for (const clip of lane.clips) {
      let box = row.clips.get(clip.id);
      if (!box) {
        box = document.createElement("button");
        box.type = "button";
        box.dataset.clip = clip.id;
        row.clips.set(clip.id, box);
        row.body.append(box);
      }
      const medium = this._score.doc.media[clip.media_id];
      const silent = lane.kind === "sound" && !medium.sound_n;
      const without = silent ? (medium.sound_word === "silent" ? "its sound is silent" : "no sound") : "";
      box.className = `clip${without ? " without-sound" : ""}${clip.id === this._choice.clip_id ? " chosen" : ""}${clip.tag === "music" && !silent ? " lit" : ""}`;
      box.setAttribute("aria-label", `Clip ${clip.name}, ${clip.tag}, at ${clock(clip.start_n)}${without && `, ${without}`}`);
      box.textContent = without ? `${clip.name} · ${without}` : clip.name;
      box.title = `${clip.name}${without && ` · ${without}`}\nDrag, or Alt with ← and →, to move it`;
    }
  }

  _markChosen() {
    for (const row of this._rows.values()) {
      for (const [id, box] of row.clips) box.classList.toggle("chosen", id === this._choice.clip_id);
    }
  }

  _shifted(clip) {
    return this._shift.ids.has(clip.id) ? { ...clip, start_n: clip.start_n + this._shift.n } : clip;
  }

  _draw() {
    const { doc } = this._score;
    if (!doc) return;
    this._drawRuler();
    for (const lane of doc.lanes) this._drawLane(lane, this._rows.get(lane.id));
    this._drawMap();
    this.showPlayhead();
  }

  _drawLane(lane, row) {
    const { view } = this;
    const { doc } = this._score;
    const context = fitted(row.canvas, view.width, row.height);
    if (lane.kind === "sound") {
      const brackets = lane.tag === "dialogue";
      drawBands(context, { view, doc, height: row.height, chosen: this._choice.passage, brackets });
    }
    let scaled = null;
    for (const clip of lane.clips.map((each) => this._shifted(each))) {
      this._placeBox(row.clips.get(clip.id), clip);
      if (view.x(clip.start_n) > view.width || view.x(clip.start_n + clip.length_n) < 0) continue;
      const medium = doc.media[clip.media_id];
      if (lane.kind === "picture") {
        drawFrames(context, { view, clip, medium, strip: this._strip(clip.media_id, medium), height: row.height });
        continue;
      }
      const curve = this._score.curveOf(clip);
      const gain = amplitude(lane.gain_db + clip.gain_db);
      const peaks = this._peaks.get(clip.media_id, medium);
      const lit = clip.tag === "music" && medium.sound_n ? curve : null; // has points and a glow strip
      const faded = this._unheard(lane) || clip.muted;
      drawSound(context, { view, clip, peaks, gain, height: row.height, curve, strip: Boolean(lit), faded });
      if (lit) {
        drawGlow(context, { view, clip, curve: lit, height: row.height });
        drawCurve(context, { view, clip, curve: lit, height: row.height });
        scaled = lit;
      }
    }
    if (scaled) drawScale(context, { height: row.height, curve: scaled });
  }

  _placeBox(box, clip) {
    if (!box) return;
    const left = this.view.x(clip.start_n);
    const right = this.view.x(clip.start_n + clip.length_n);
    box.hidden = right < 0 || left > this.view.width;
    if (box.hidden) return;
    const from = Math.max(left, -2);
    box.style.left = `${from}px`;
    box.style.width = `${Math.max(3, Math.min(right, this.view.width + 2) - from)}px`;
  }

  _strip(media_id, medium) {
    if (!medium.thumbs) return null;
    if (!this._strips.has(media_id)) {
      const image = new Image();
      image.addEventListener("load", () => this.draw());
      image.src = `/media/${media_id}/thumbs`;
      this._strips.set(media_id, image);
    }
    return this._strips.get(media_id);
  }

  _drawRuler() {
    const { view } = this;
    const context = fitted(this._ruler, view.width, RULER_H);
    const step_n = rulerStep(view.n_per_px, RATE) * RATE;
    const decimals = step_n < RATE / 10 ? 2 : step_n < RATE ? 1 : 0;
    context.font = FIGURES;
    context.textBaseline = "middle";
    for (let at = Math.floor(view.start_n / step_n) * step_n; at < view.stop_n; at += step_n) {
      const x = Math.round(view.x(at)) + 0.5;
      context.strokeStyle = "#3A4859";
      context.beginPath();
      context.moveTo(x, 5);
      context.lineTo(x, RULER_H);
      for (let k = 1; k < 5; k += 1) {
        const small = Math.round(view.x(at + (k * step_n) / 5)) + 0.5;
        context.moveTo(small, RULER_H - 4);
        context.lineTo(small, RULER_H);
      }
      context.stroke();
      context.fillStyle = NIGHT.soft;
      context.fillText(clock(at, decimals), x + 5, RULER_H / 2);
    }
  }

  _drawMap() {
    const { view } = this;
    const { doc } = this._score;
    const context = fitted(this._map, view.width, MAP_H);
    const x = (time_n) => (time_n / view.length_n) * view.width;
    const glow = doc.curves.music;
    if (glow && doc.length_n) {
      context.fillStyle = LAMP.bright;
      for (let at = 0; at < x(doc.length_n); at += 2) {
        context.globalAlpha = 0.75 * amplitude(gainAt(glow, (at / view.width) * view.length_n));
        context.fillRect(at, 12, 2, 4);
      }
    }
    context.globalAlpha = 1;
    context.fillStyle = JAY;
    for (const passage of doc.passages) {
      context.fillRect(x(passage.start_n), 5, Math.max(1, x(passage.stop_n) - x(passage.start_n)), 5);
    }
    context.strokeStyle = NIGHT.ink;
    context.lineWidth = 1;
    const left = Math.max(0.5, x(view.start_n) + 0.5);
    context.strokeRect(left, 1.5, Math.min(x(view.stop_n), view.width - 0.5) - left, MAP_H - 3);
  }

  /** Put the playhead where the sound is. */
  showPlayhead(time_n = this._at ?? 0) {
    this._at = time_n;
    const x = this.view.x(time_n);
    this._playhead.hidden = x < 0 || x > this.view.width;
    this._playhead.style.transform = `translateX(${x}px)`;
  }
}
