// The timeline: ruler, lanes with their clips, playhead, mini-map. Draws the page document; what the mouse does stands in gestures.js.

import { oncePerFrame } from "../ground/canvas.js";
import { CaptionLanes } from "./caption_lanes.js";
import { ClipBoxes, placeBox } from "./clip_boxes.js";
import { Gestures } from "./gestures.js";
import { dragHeight, dragLane } from "./lane_dragging.js";
import { LaneHead } from "./lane_head.js";
import { GAP_H, laneHeights } from "../plain/lane_heights.js";
import { LanePainter } from "./lane_painter.js";
import { LaneView } from "./lane_view.js";
import { LineStretch } from "./line_stretch.js";
import { LoudnessStrip } from "./loudness_strip.js";
import { MiniMap } from "./mini_map.js";
import { viewed } from "../project/page_document.js";
import { PeaksShelf } from "./peaks_shelf.js";
import { Points } from "./points.js";
import { previewed } from "../plain/preview.js";
import { Ruler } from "./ruler.js";
import { say } from "../ground/said.js";
import { TimelineOver } from "./timeline_over.js";
import { clock } from "../plain/units.js";
import { Viewport } from "../plain/viewport.js";
import { wheelWay } from "../plain/wheel.js";
import { laneWords, rulerWords } from "../plain/words.js";

const DRAWINGS = 400; // how many drawings are remembered for the benchmark

/** Events: "seek" with the time; "menu" with what a menu is asked for, and where. */
export class Timeline extends EventTarget {
  /** @param {HTMLElement} element @param {{pageDoc: any, selection: any, ride: any}} parts `ride`: what a fader writes while it plays */
  constructor(element, { pageDoc, selection, ride }) {
    super();
    this._element = element;
    this._pageDoc = pageDoc;
    this._selection = selection;
    this.view = new Viewport();
    this.laneView = new LaneView(document.body.dataset.project);
    this.snapping = true;
    this.drawn_ms = []; // script time of the newest drawings, for `./jay bench`
    this._rows = new Map();
    this._preview = null;
    this._struck = null;
    this._take = null;
    this._hovered = null;
    this._at = 0;
    this.draw = oncePerFrame(() => this._measured());
    this._peaks = new PeaksShelf();
    this._peaks.addEventListener("arrived", this.draw);
    this.points = new Points({ pageDoc, selection, timeline: this });
    this.stretch = new LineStretch({ pageDoc, timeline: this });
    this.ride = ride;
    this.places = null;
    const placesOf = (clip) => (this.places?.media_id === clip.media_id ? this.places : null);
    const stretchOf = (clip) => this.stretch.of(clip);
    this._painter = new LanePainter({ pageDoc, selection, view: this.view, peaks: this._peaks, points: this.points, redraw: this.draw, stretchOf, placesOf });
    this._build();
    pageDoc.views.unshift(() => viewed(this.view.start_n, this.view.stop_n));
    pageDoc.addEventListener("curves", this.draw);
    pageDoc.addEventListener("change", () => this._changed());
    selection.addEventListener("change", () => {
      this._markChosen();
      this.draw();
    });
    this._fit = oncePerFrame(() => this._resize()); // not at once: it would change what is being watched
    this._watch = new ResizeObserver(this._fit);
    for (const each of [this._over.element, this._lanes]) this._watch.observe(each);
  }

  get peaks() {
    return this._peaks;
  }

  /** Where the bar of the gain line lies. */
  get lineElement() {
    return this._element.querySelector(".tl-line");
  }

  get lanesElement() {
    return this._lanes;
  }

  get playhead_n() {
    return this._at;
  }

  destroy() {
    this._watch.disconnect();
    this.draw.cancel();
    this._fit.cancel();
    this._element.replaceChildren();
  }

  /** Ask for a menu: of the chosen clips, of a lane, of a point or the line of a curve. @param {"clips" | "lane" | "point"} of @param {{x: number, y: number} | null} at CSS pixels of the page @param {{lane_id?: number, hit?: any, point?: any}} what */
  openMenu(of, at, what = {}) {
    this.dispatchEvent(new CustomEvent("menu", { detail: { of, at, ...what } }));
  }

  _build() {
    this._element.innerHTML = `
      <div class="tl-line" role="toolbar" aria-label="Gain line" hidden></div>
      <div class="tl-ruler"><div class="tl-corner figure"></div><canvas role="img"></canvas></div>
      <div class="tl-captions" hidden></div>
      <div class="tl-rows" tabindex="-1"></div>
      <div class="tl-over"></div>
      <div class="tl-empty" hidden><strong>The timeline is empty.</strong><span>Drop a film, a narration and a piece of music anywhere on this page.</span></div>
      <div class="tl-loud" hidden><div class="tl-corner">loudness, 3 s<br><span>limiter from above</span></div><canvas role="img" aria-label="Loudness of the mix over time, with what the limiter takes off"></canvas></div>
      <div class="tl-map"><div class="tl-corner">whole film</div><canvas role="img"></canvas></div>`;
    const find = (selector) => this._element.querySelector(selector);
    this._over = new TimelineOver(find(".tl-over"), this.view);
    this._lanes = find(".tl-rows");
    this._corner = find(".tl-corner");
    this._empty = find(".tl-empty");
    this._gestures = new Gestures(this, { pageDoc: this._pageDoc, selection: this._selection });
    this._element.addEventListener("pointermove", (event) => (this._pointer = { x: event.clientX, y: event.clientY }), { capture: true });
    this._element.addEventListener("wheel", (event) => this._wheel(event), { passive: false });
    const parts = { timeline: this, pageDoc: this._pageDoc, gestures: this._gestures };
    this._ruler = new Ruler(find(".tl-ruler canvas"), parts);
    this._map = new MiniMap(find(".tl-map canvas"), parts);
    this.loudness = new LoudnessStrip(find(".tl-loud"), parts);
    this.captions = new CaptionLanes(find(".tl-captions"), parts);
    this._lanes.addEventListener("scroll", this.draw);
    this._lanes.addEventListener("pointerleave", () => this.setHovered(null));
    this._lanes.addEventListener("pointerdown", () => (this._pressing = true), { capture: true });
    this._lanes.addEventListener("pointerup", () => (this._pressing = false));
    this._lanes.addEventListener("pointercancel", () => (this._pressing = false));
    this._lanes.addEventListener("focusin", (event) => {
      const box = event.target.closest(".clip");
      if (box && !this._pressing && !this._selection.clips.has(Number(box.dataset.clip))) this._selection.choose([Number(box.dataset.clip)]);
    });
  }

  // — where things are —

  /** What lies under the pointer: lane, clip if any, time, and the place inside the lane in pixels; null beside the lanes. */
  hit(event) {
    const target = event.type === "dblclick" ? document.elementFromPoint(event.clientX, event.clientY) : event.target; // captured
    const element = target?.closest?.(".lane-body")?.parentElement ?? null;
    const found = element && [...this._rows].find(([, row]) => row.element === element);
    if (!found) return null;
    const [id, row] = found;
    const lane = this._pageDoc.lane(id);
    const x = this._ruler.x(event);
    const y = event.clientY - row.body.getBoundingClientRect().top;
    const time_n = Math.max(0, Math.round(this.view.time(x)));
    const slack = 2 * this.view.n_per_px;
    const under = lane.clips.filter((clip) => clip.start_n - slack <= time_n && time_n < clip.start_n + clip.length_n + slack);
    const clip = under.find((each) => this._selection.clips.has(each.id)) ?? under.at(-1) ?? null;
    return { lane, clip, x, y, time_n };
  }

  /** By how many lanes of its kind the pointer is below a lane (above: negative). */
  lanesBetween(lane, event) {
    const alike = this._pageDoc.doc.lanes.filter((each) => each.kind === lane.kind);
    const middle = (each) => {
      const box = this._rows.get(each.id).element.getBoundingClientRect();
      return [box.top - GAP_H / 2, box.bottom + GAP_H / 2];
    };
    const over = alike.findIndex((each) => event.clientY >= middle(each)[0] && event.clientY < middle(each)[1]);
    return over < 0 ? 0 : over - alike.indexOf(alike.find((each) => each.id === lane.id));
  }

  /** Where on the page a clip begins, for a menu. */
  placeOf(clip_id) {
    const { lane, clip } = this._pageDoc.clip(clip_id);
    const box = this._rows.get(lane.id).body.getBoundingClientRect();
    return { x: Math.min(Math.max(box.left + this.view.x(clip.start_n), box.left), box.right - 40) + 12, y: box.top + 18 };
  }

  /** Where on the page the head of a lane begins, for a menu. */
  headOf(lane_id) {
    const box = this._rows.get(lane_id).head.element.getBoundingClientRect();
    return { x: box.left + 24, y: box.top + 24 };
  }

  /** The point or the line of a curve under the pointer, if any. */
  pointAt(hit) {
    if (this.laneView.folded(hit.lane.id)) return null;
    return this.points.near(hit, this._rows.get(hit.lane.id).height);
  }

  /** How high a lane is. */
  heightOf(lane_id) {
    return this._rows.get(lane_id).height;
  }

  seekTo(time_n) {
    this.dispatchEvent(new CustomEvent("seek", { detail: Math.max(0, Math.round(time_n)) }));
  }

  focusClip(clip_id) {
    const { lane } = this._pageDoc.clip(clip_id) ?? {};
    this._rows.get(lane?.id)?.boxes.get(clip_id)?.focus({ preventScroll: true });
  }

  /** The box of the clip chosen last, if it can have the focus. */
  focusLead() {
    const found = this._pageDoc.doc && this._pageDoc.clip(this._selection.lead);
    const box = found && this._rows.get(found.lane.id)?.boxes.get(found.clip.id);
    return box && !box.hidden ? box : null;
  }

  // — moving about —

  _wheel(event) {
    const way = wheelWay(event, { over_lanes: Boolean(event.target.closest(".tl-rows")) });
    if (!way) return; // the lanes go up and down by themselves
    event.preventDefault();
    if (way.zoom) this.view.zoom(way.zoom, this._ruler.x(event));
    else this.view.scroll(way.across_px);
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

  /** Show these clips as large as they fit. */
  fitTo(clips) {
    if (!clips.length) {
      say("No clip is chosen. Click one on the timeline first.");
      return;
    }
    this.view.show(Math.min(...clips.map((clip) => clip.start_n)), Math.max(...clips.map((clip) => clip.start_n + clip.length_n)));
    this.draw();
  }

  reveal(time_n) {
    if (this.view.reveal(time_n)) this.draw();
  }

  setSnapping(on) {
    this.snapping = on;
    say(on ? "Snapping is on." : "Snapping is off.");
    document.getElementById("snap")?.setAttribute("aria-pressed", on);
  }

  // — previews of what is being dragged —

  /** @param {import("../plain/preview.js").Preview} preview */
  showPreview(preview) {
    this._preview = preview;
    this._element.classList.add("dragging");
    this.draw();
  }

  endPreview() {
    this._preview = null;
    this._element.classList.remove("dragging");
    this.draw();
  }

  /** A frame between two places of the page; answers the clips it touches. */
  showFrame(a, b) {
    const [left, right] = [Math.min(a.x, b.x), Math.max(a.x, b.x)];
    const [top, bottom] = [Math.min(a.y, b.y), Math.max(a.y, b.y)];
    const [from_n, to_n] = this._over.frame({ left, top, right, bottom });
    return this._pageDoc.doc.lanes.flatMap((lane) => {
      const row = this._rows.get(lane.id).element.getBoundingClientRect();
      if (row.bottom < top || row.top > bottom) return [];
      return lane.clips.filter((clip) => clip.start_n < to_n && clip.start_n + clip.length_n > from_n).map((clip) => clip.id);
    });
  }

  hideFrame() {
    this._over.hideFrame();
  }

  /** Strike through stretches of some lanes that would be cut out; null: none. @param {{lane_ids: number[], spans: number[][]} | null} struck */
  strike(struck) {
    this._struck = struck;
    this.draw();
  }

  setHovered(clip_id) {
    if (clip_id === this._hovered) return;
    this._hovered = clip_id;
    this.draw();
  }

  // — folding, heights, order —

  fold(lane_id, folded) {
    this.laneView.fold(lane_id, folded);
    this._changed();
  }

  resizeLane(lane_id, height) {
    this.laneView.resize(lane_id, height);
    this._spread();
    this._rows.get(lane_id)?.head.setFolded(false);
    this.draw();
  }

  growLane(lane_id, by_px) {
    this.resizeLane(lane_id, this._rows.get(lane_id).height + by_px);
  }

  /** The lower edge of a lane's head is dragged. */
  dragHeight(event, lane_id) {
    dragHeight(event, { gestures: this._gestures, from_px: this._rows.get(lane_id).height, resize: (height) => this.resizeLane(lane_id, height) });
  }

  /** A lane is dragged by its grip to another place in the order. */
  dragLane(event, lane_id) {
    const rows = this._pageDoc.doc.lanes.map((lane) => this._rows.get(lane.id).element);
    dragLane(event, { gestures: this._gestures, pageDoc: this._pageDoc, lane_id, rows });
  }

  /** Where a voice hisses and breathes, and what of it is left alone; null: nothing is shown. */
  showPlaces(places) {
    this.places = places;
    this.draw();
  }

  /** Levels of the lanes that play, dBFS by lane number; null: silence. */
  showLevels(levels) {
    for (const [id, row] of this._rows) row.head.showLevel(levels?.[id] ?? null);
  }

  // — what is shown —

  /** Something else took or left room beside the lanes. */
  refit() {
    this._resize();
  }

  _resize() {
    this.view.resize(this._over.element.clientWidth, this._pageDoc.doc?.length_n ?? 0);
    this._spread();
    this.draw();
  }

  _spread() {
    const lanes = this._pageDoc.doc?.lanes ?? [];
    const heights = laneHeights(lanes, { room_px: this._lanes.clientHeight, view: this.laneView });
    lanes.forEach((lane, i) => {
      const row = this._rows.get(lane.id);
      if (!row) return;
      row.height = heights[i];
      row.element.style.height = `${row.height}px`;
    });
  }

  _changed() {
    const { doc } = this._pageDoc;
    const kept = new Set(doc.lanes.map((lane) => lane.id));
    for (const [id, row] of this._rows) {
      if (!kept.has(id)) {
        row.element.remove();
        this._rows.delete(id);
      }
    }
    doc.lanes.forEach((lane, i) => this._placeRow(lane, i));
    this._empty.hidden = doc.lanes.length > 0;
    this.view.resize(this._over.element.clientWidth, doc.length_n);
    this._spread();
    this.draw();
  }

  _placeRow(lane, i) {
    const row = this._rows.get(lane.id) ?? this._makeRow(lane);
    if (this._lanes.children[i] !== row.element) this._lanes.insertBefore(row.element, this._lanes.children[i] ?? null);
    row.head.show(lane);
    row.head.setFolded(this.laneView.folded(lane.id));
    row.element.dataset.lane = lane.name;
    row.element.classList.toggle("unheard", this._unheard(lane));
    row.element.classList.toggle("folded", this.laneView.folded(lane.id));
    row.boxes.show(lane);
  }

  _makeRow(lane) {
    const [element, body, canvas] = ["div", "div", "canvas"].map((name) => document.createElement(name));
    const head = new LaneHead(lane, this._pageDoc, this);
    element.className = "lane";
    body.className = "lane-body";
    canvas.setAttribute("role", "img");
    body.append(canvas);
    element.append(head.element, body);
    const boxes = new ClipBoxes(body, canvas, { pageDoc: this._pageDoc, selection: this._selection });
    const row = { element, head, body, canvas, boxes, height: 0 };
    this._rows.set(lane.id, row);
    return row;
  }

  _unheard(lane) {
    const solo = this._pageDoc.doc.lanes.some((each) => each.soloed);
    return lane.kind === "sound" && (lane.muted || (solo && !lane.soloed));
  }

  _markChosen() {
    for (const lane of this._pageDoc.doc?.lanes ?? []) this._rows.get(lane.id)?.boxes.mark(lane);
  }

  _measured() {
    const began = performance.now();
    this._draw();
    this.drawn_ms.push(performance.now() - began);
    if (this.drawn_ms.length > DRAWINGS) this.drawn_ms.shift();
  }

  _draw() {
    if (!this._pageDoc.doc) return;
    this._ruler.draw(this._preview ?? {});
    const top = this._lanes.scrollTop;
    const bottom = top + this._lanes.clientHeight;
    let y = 0;
    for (const { lane, clips } of previewed(this._pageDoc.doc.lanes, this._preview)) {
      const row = this._rows.get(lane.id);
      if (y < bottom && y + row.height > top) this._drawLane(lane, clips, row);
      y += row.height + GAP_H;
    }
    this._map.draw();
    this.captions.draw();
    this.loudness.draw();
    this._over.drag(this._preview ?? {}, this._pointer);
    this._tell();
    this._over.take(this._take);
    this.showPlayhead();
    this._pageDoc.look();
  }

  /** What the drawings hold, in words, for who does not see them. */
  _tell() {
    if (this._preview || this._told === this._pageDoc.doc) return;
    this._told = this._pageDoc.doc;
    this._ruler.canvas.setAttribute("aria-label", rulerWords(this._told));
    this._map.canvas.setAttribute("aria-label", `The whole film, ${clock(this._told.length_n, 1)} long`);
    for (const lane of this._told.lanes) this._rows.get(lane.id)?.canvas.setAttribute("aria-label", laneWords(lane, this._told));
  }

  _drawLane(lane, clips, row) {
    for (const clip of clips) {
      const box = row.boxes.get(clip.id) ?? this._strayBox(clip.id);
      if (box) placeBox(box, clip, { view: this.view, body: row.body, chosen: this._selection.clips.has(clip.id) });
    }
    this._painter.paint({
      canvas: row.canvas,
      lane,
      clips,
      height: row.height,
      folded: this.laneView.folded(lane.id),
      unheard: this._unheard(lane),
      hovered: this._hovered,
      preview: this._preview,
      spans: this._struck?.lane_ids.includes(lane.id) ? this._struck.spans : null,
    });
  }

  /** The box of a clip that is being dragged over another lane. */
  _strayBox(clip_id) {
    for (const row of this._rows.values()) if (row.boxes.get(clip_id)) return row.boxes.get(clip_id);
    return null;
  }

  /** Where a take is being recorded, as far as it has come; null: none is. @param {{start_n: number, stop_n: number} | null} take */
  showTake(take) {
    this._take = take;
    this._over.take(take);
  }

  /** Put the playhead where the sound is. */
  showPlayhead(time_n = this._at ?? 0) {
    this._at = time_n;
    this._over.playhead(time_n);
  }
}
