// The timeline: ruler, lanes with their clips, playhead, mini-map. Draws the score; what the mouse does stands in gestures.js.

import { CLIP_MENU, laneItems, menuItems } from "./actions.js";
import { fitted, oncePerFrame } from "./canvas.js";
import { Gestures } from "./gestures.js";
import { drawBands, drawCurve, drawFades, drawFrames, drawGlow, drawRide, drawScale, drawSound, drawStruck } from "./lane_drawing.js";
import { LaneHead } from "./lane_head.js";
import { FOLDED_H, LaneView } from "./lane_view.js";
import { LoudnessStrip } from "./loudness_strip.js";
import { openMenu } from "./menu.js";
import { MiniMap } from "./mini_map.js";
import { Points } from "./points.js";
import { PeaksShelf } from "./peaks.js";
import { Ruler } from "./ruler.js";
import { say, saying } from "./said.js";
import { viewed } from "./score.js";
import { amplitude, clock } from "./units.js";
import { Viewport } from "./viewport.js";
import { laneWords, rulerWords } from "./words.js";

const HEIGHT = { picture: 40, dialogue: 60, music: 100, ambience: 60, effects: 60, untagged: 60, mixed: 60 };
const GAP_H = 4;
const MOST_GROWTH = 4; // how far lanes grow where there is room
const WHEEL = 0.0016;
const LEAST_BOX_PX = 3; // a clip narrower than this gets no box of its own, only its picture
const DRAWINGS = 400; // how many drawings are remembered for the benchmark

/** Events: "seek" with the time. */
export class Timeline extends EventTarget {
  constructor(element, { score, choice }) {
    super();
    this._element = element;
    this._score = score;
    this._choice = choice;
    this.view = new Viewport();
    this.laneView = new LaneView(document.body.dataset.project);
    this.snapping = true;
    this.drawn_ms = []; // script time of the newest drawings, for `./jay bench`
    this._rows = new Map();
    this._strips = new Map();
    this._preview = null;
    this._struck = null;
    this._take = null;
    this._hovered = null;
    this._at = 0;
    this.draw = oncePerFrame(() => this._measured());
    this._peaks = new PeaksShelf();
    this._peaks.addEventListener("arrived", this.draw);
    this.points = new Points({ score, timeline: this });
    this._build();
    score.views.unshift(() => viewed(this.view.start_n, this.view.stop_n));
    score.addEventListener("curves", this.draw);
    score.addEventListener("change", () => this._changed());
    choice.addEventListener("change", () => {
      this._markChosen();
      this.draw();
    });
    this._fit = oncePerFrame(() => this._resize()); // not at once: it would change what is being watched
    this._watch = new ResizeObserver(this._fit);
    for (const each of [this._body, this._lanes]) this._watch.observe(each);
  }

  get peaks() {
    return this._peaks;
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

  /** The actions menus are made of. */
  useActions(table) {
    this._actions = table;
  }

  _build() {
    this._element.innerHTML = `
      <div class="tl-ruler"><div class="tl-corner figure"></div><canvas role="img"></canvas></div>
      <div class="tl-rows" tabindex="-1"></div>
      <div class="tl-over"><div class="snap-line" hidden></div><div class="drag-word figure" hidden></div><div class="frame" hidden></div><div class="take-band" hidden><span>take</span></div><div class="playhead"><i></i></div></div>
      <div class="tl-empty" hidden><strong>The timeline is empty.</strong><span>Drop a film, a narration and a piece of music anywhere on this page.</span></div>
      <div class="tl-loud" hidden><div class="tl-corner">loudness, 3 s<br><span>limiter from above</span></div><canvas role="img" aria-label="Loudness of the mix over time, with what the limiter takes off"></canvas></div>
      <div class="tl-map"><div class="tl-corner">whole film</div><canvas role="img"></canvas></div>`;
    const find = (selector) => this._element.querySelector(selector);
    this._body = find(".tl-over");
    this._lanes = find(".tl-rows");
    this._corner = find(".tl-corner");
    this._playhead = find(".playhead");
    this._empty = find(".tl-empty");
    this._snapLine = find(".snap-line");
    this._word = find(".drag-word");
    this._frame = find(".frame");
    this._band = find(".take-band");
    this._gestures = new Gestures(this, { score: this._score, choice: this._choice });
    this._element.addEventListener("pointermove", (event) => (this._pointer = { x: event.clientX, y: event.clientY }), { capture: true });
    this._element.addEventListener("wheel", (event) => this._wheel(event), { passive: false });
    const parts = { timeline: this, score: this._score, gestures: this._gestures };
    this._ruler = new Ruler(find(".tl-ruler canvas"), parts);
    this._map = new MiniMap(find(".tl-map canvas"), parts);
    this.loudness = new LoudnessStrip(find(".tl-loud"), parts);
    this._lanes.addEventListener("scroll", this.draw);
    this._lanes.addEventListener("pointerleave", () => this.setHovered(null));
    this._lanes.addEventListener("pointerdown", () => (this._pressing = true), { capture: true });
    this._lanes.addEventListener("pointerup", () => (this._pressing = false));
    this._lanes.addEventListener("pointercancel", () => (this._pressing = false));
    this._lanes.addEventListener("focusin", (event) => {
      const box = event.target.closest(".clip");
      if (box && !this._pressing && !this._choice.clips.has(Number(box.dataset.clip))) this._choice.choose([Number(box.dataset.clip)]);
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
    const lane = this._score.lane(id);
    const x = this._ruler.x(event);
    const y = event.clientY - row.body.getBoundingClientRect().top;
    const time_n = Math.max(0, Math.round(this.view.time(x)));
    const slack = 2 * this.view.n_per_px;
    const under = lane.clips.filter((clip) => clip.start_n - slack <= time_n && time_n < clip.start_n + clip.length_n + slack);
    const clip = under.find((each) => this._choice.clips.has(each.id)) ?? under.at(-1) ?? null;
    return { lane, clip, x, y, time_n };
  }

  /** By how many lanes of its kind the pointer is below a lane (above: negative). */
  lanesBetween(lane, event) {
    const alike = this._score.doc.lanes.filter((each) => each.kind === lane.kind);
    const middle = (each) => {
      const box = this._rows.get(each.id).element.getBoundingClientRect();
      return [box.top - GAP_H / 2, box.bottom + GAP_H / 2];
    };
    const over = alike.findIndex((each) => event.clientY >= middle(each)[0] && event.clientY < middle(each)[1]);
    return over < 0 ? 0 : over - alike.indexOf(alike.find((each) => each.id === lane.id));
  }

  /** Where on the page a clip begins, for a menu. */
  placeOf(clip_id) {
    const { lane, clip } = this._score.clip(clip_id);
    const box = this._rows.get(lane.id).body.getBoundingClientRect();
    return { x: Math.min(Math.max(box.left + this.view.x(clip.start_n), box.left), box.right - 40) + 12, y: box.top + 18 };
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
    const { lane } = this._score.clip(clip_id) ?? {};
    this._rows.get(lane?.id)?.clips.get(clip_id)?.focus({ preventScroll: true });
  }

  /** The box of the clip chosen last, if it can have the focus. */
  focusLead() {
    const found = this._score.doc && this._score.clip(this._choice.lead);
    const box = found && this._rows.get(found.lane.id)?.clips.get(found.clip.id);
    return box && !box.hidden ? box : null;
  }

  // — moving about —

  _wheel(event) {
    const scale = event.deltaMode === 1 ? 16 : 1;
    if (event.target.closest(".lane-head")) return;
    event.preventDefault();
    if (event.ctrlKey && event.target.closest(".tl-rows")) {
      this._lanes.scrollTop += event.deltaY * scale;
      return;
    }
    if (event.shiftKey || Math.abs(event.deltaX) > Math.abs(event.deltaY)) {
      this.view.scroll((event.deltaX || event.deltaY) * scale);
    } else {
      this.view.zoom(Math.exp(event.deltaY * scale * WHEEL), this._ruler.x(event));
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

  /**
   * @param {{moved?: {ids: Set<number>, by_n: number, lanes_by: number, kind: string, across: Set<number>}, changed?: Map<number, object>,
   *   marker?: {id: number, time_n: number}, range?: {in_n?: number, out_n?: number}, at_n?: number | null, word?: string,
   *   curves?: Map<string, object>, passages?: object[]}} preview
   */
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
    const box = this._body.getBoundingClientRect();
    const [left, right] = [Math.min(a.x, b.x), Math.max(a.x, b.x)];
    const [top, bottom] = [Math.min(a.y, b.y), Math.max(a.y, b.y)];
    this._frame.hidden = false;
    Object.assign(this._frame.style, { left: `${left - box.left}px`, top: `${top - box.top}px`, width: `${right - left}px`, height: `${bottom - top}px` });
    const [from_n, to_n] = [this.view.time(left - box.left), this.view.time(right - box.left)];
    return this._score.doc.lanes.flatMap((lane) => {
      const row = this._rows.get(lane.id).element.getBoundingClientRect();
      if (row.bottom < top || row.top > bottom) return [];
      return lane.clips.filter((clip) => clip.start_n < to_n && clip.start_n + clip.length_n > from_n).map((clip) => clip.id);
    });
  }

  hideFrame() {
    this._frame.hidden = true;
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

  // — menus, folding, heights —

  openClipMenu(at) {
    openMenu(at, menuItems(this._actions, CLIP_MENU), "Chosen clips");
  }

  /** The menu of a point, or of the line of a curve. */
  openPointMenu(at, hit, point) {
    const { points } = this;
    const values = { lane_id: hit.lane.id };
    const items = [
      point.index === null
        ? { label: "Add a point here", run: () => points.add(hit.lane.id, point.name, hit.time_n) }
        : { label: "Exact values …", keys: "E", off: points.chosen.size !== 1, run: () => points.exact() },
      { label: "Take away", keys: "Delete", off: point.index === null, run: () => points.remove() },
      null,
      ...["point-freeze", "point-clear", "point-lift"].map((id) => {
        const deed = { "point-freeze": "freeze", "point-clear": "clear", "point-lift": "follow" }[id];
        return { label: this._actions.find((each) => each.id === id).short, run: () => saying(() => this._score.do(`shape/${deed}`, values)) };
      }),
    ];
    openMenu(at, items, "Curve");
  }

  openLaneMenu(lane_id, at = null) {
    const lane = this._score.lane(lane_id);
    const box = this._rows.get(lane_id).head.element.getBoundingClientRect();
    const items = laneItems({ score: this._score, choice: this._choice, timeline: this }, lane);
    openMenu(at ?? { x: box.left + 24, y: box.top + 24 }, items, `Lane ${lane.name}`);
  }

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

  /** The lane head's lower edge is dragged. */
  dragHeight(event, lane_id) {
    const from = this._rows.get(lane_id).height;
    this._gestures.follow(event, { move: (moved) => this.resizeLane(lane_id, from + moved.clientY - event.clientY) });
  }

  /** A lane is dragged by its grip to another place in the order. */
  dragLane(event, lane_id) {
    const { lanes } = this._score.doc;
    const boxes = lanes.map((lane) => this._rows.get(lane.id).element);
    let to = null;
    this._gestures.follow(event, {
      move: (moved) => {
        to = boxes.filter((box) => box.getBoundingClientRect().top + box.offsetHeight / 2 < moved.clientY).length;
        boxes.forEach((box, i) => {
          box.classList.toggle("drop-above", i === to);
          box.classList.toggle("drop-below", i === to - 1 && to === boxes.length);
        });
      },
      done: (finished) => {
        for (const box of boxes) box.classList.remove("drop-above", "drop-below");
        const from = lanes.findIndex((lane) => lane.id === lane_id);
        const place = to > from ? to - 1 : to;
        if (finished && to !== null && place !== from) saying(() => this._score.do("order_lane", { lane_id, to: place }));
      },
    });
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
    this.view.resize(this._body.clientWidth, this._score.doc?.length_n ?? 0);
    this._spread();
    this.draw();
  }

  /** Lanes share the room there is; where it is short they keep their least height and the rows scroll. */
  _spread() {
    const lanes = this._score.doc?.lanes ?? [];
    const fixed = lanes.map((lane) => (this.laneView.folded(lane.id) ? FOLDED_H : this.laneView.height(lane.id)));
    const least = lanes.map((lane, i) => fixed[i] ?? (lane.kind === "picture" ? HEIGHT.picture : HEIGHT[lane.shown_tag]));
    const given = fixed.reduce((sum, height) => sum + (height ?? 0), 0);
    const wanted = least.reduce((sum, height, i) => sum + (fixed[i] === null ? height : 0), 0);
    const room = this._lanes.clientHeight - GAP_H * lanes.length - given;
    const growth = Math.min(Math.max(room / Math.max(wanted, 1), 1), MOST_GROWTH);
    lanes.forEach((lane, i) => {
      const row = this._rows.get(lane.id);
      if (!row) return;
      row.height = fixed[i] ?? Math.floor(least[i] * growth);
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
      row = { element: document.createElement("div"), head: new LaneHead(lane, this._score, this), clips: new Map(), words: new Map() };
      row.element.className = "lane";
      row.body = document.createElement("div");
      row.body.className = "lane-body";
      row.canvas = document.createElement("canvas");
      row.canvas.setAttribute("role", "img");
      row.body.append(row.canvas);
      row.element.append(row.head.element, row.body);
      this._rows.set(lane.id, row);
    }
    if (this._lanes.children[i] !== row.element) this._lanes.insertBefore(row.element, this._lanes.children[i] ?? null);
    row.head.show(lane);
    row.head.setFolded(this.laneView.folded(lane.id));
    row.element.dataset.lane = lane.name;
    row.element.classList.toggle("unheard", this._unheard(lane));
    row.element.classList.toggle("folded", this.laneView.folded(lane.id));
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
        row.words.delete(id);
      }
    }
    for (const clip of lane.clips) {
      let box = row.clips.get(clip.id);
      if (!box) {
        box = document.createElement("button");
        box.type = "button";
        box.dataset.clip = clip.id;
        box.hidden = true;
        row.clips.set(clip.id, box);
        row.body.append(box);
      }
      this._describe(row, box, lane, clip);
    }
    let after = row.canvas; // Tab goes through the clips as they lie
    for (const clip of lane.clips) {
      const box = row.clips.get(clip.id);
      if (after.nextSibling !== box) after.after(box);
      after = box;
    }
  }

  /** Class and words of a clip's box, touched only where they have changed. */
  _describe(row, box, lane, clip) {
    const medium = this._score.doc.media[clip.media_id];
    const silent = lane.kind === "sound" && !medium.sound_n;
    const mute = lane.kind === "picture" && !medium.sound_n;
    const quiet = medium.sound_word === "silent" ? "its sound is silent" : "no sound";
    const without = medium.missing ? "file missing" : silent || mute ? quiet : "";
    const notes = [
      without,
      clip.muted ? "muted" : "",
      clip.gain_db ? `${clip.gain_db > 0 ? "+" : "−"}${Math.abs(clip.gain_db).toFixed(1)} dB` : "",
      clip.channels === "both" ? "" : clip.channels,
      clip.bystander ? "bystander" : "",
      clip.own_trigger ? `by ${clip.own_trigger}` : "",
    ].filter(Boolean);
    const chosen = this._choice.clips.has(clip.id);
    const own = lane.kind === "sound" && clip.own_tag && clip.own_tag !== lane.tag ? ` own-tag tag-${clip.own_tag}` : "";
    const look = `clip${medium.missing ? " file-missing" : ""}${silent ? " without-sound" : ""}${chosen ? " chosen" : ""}${clip.tag === "music" && !silent ? " lit" : ""}${clip.muted ? " hushed" : ""}${own}`;
    const words = `${look}|${clip.name}|${notes.join()}|${clip.start_n}|${clip.tag}|${clip.link !== null}`;
    if (row.words.get(clip.id) === words) return;
    row.words.set(clip.id, words);
    box.className = look;
    box.setAttribute("aria-label", [`Clip ${clip.name}`, lane.kind === "sound" ? clip.tag : "picture", `at ${clock(clip.start_n)}`, ...notes].join(", "));
    box.textContent = [clip.link !== null ? `⚭ ${clip.name}` : clip.name, ...notes].join(" · ");
    box.title = [clip.name, ...notes].join(" · ");
  }

  _markChosen() {
    for (const lane of this._score.doc?.lanes ?? []) {
      const row = this._rows.get(lane.id);
      for (const clip of lane.clips) {
        const box = row?.clips.get(clip.id);
        if (box && box.classList.contains("chosen") !== this._choice.clips.has(clip.id)) this._describe(row, box, lane, clip);
      }
    }
  }

  /** The lanes with their clips as the preview would have them: what is dragged already lies where it would. */
  _shown() {
    const { lanes } = this._score.doc;
    const { moved, changed } = this._preview ?? {};
    if (changed) return lanes.map((lane) => ({ lane, clips: lane.clips.map((clip) => ({ ...clip, ...changed.get(clip.id) })) }));
    if (!moved) return lanes.map((lane) => ({ lane, clips: lane.clips }));
    const alike = lanes.filter((lane) => lane.kind === moved.kind);
    const ranks = alike.flatMap((lane, rank) => (lane.clips.some((clip) => moved.across.has(clip.id)) ? [rank] : []));
    const down = ranks.length ? Math.max(-Math.min(...ranks), Math.min(moved.lanes_by, alike.length - 1 - Math.max(...ranks))) : 0;
    const clips = new Map(lanes.map((lane) => [lane.id, []]));
    for (const lane of lanes) {
      for (const clip of lane.clips) {
        const across = lane.kind === moved.kind && moved.across.has(clip.id);
        const home = across ? alike[alike.indexOf(lane) + down] : lane;
        clips.get(home.id).push(moved.ids.has(clip.id) ? { ...clip, start_n: clip.start_n + moved.by_n } : clip);
      }
    }
    return lanes.map((lane) => ({ lane, clips: clips.get(lane.id) }));
  }

  _measured() {
    const began = performance.now();
    this._draw();
    this.drawn_ms.push(performance.now() - began);
    if (this.drawn_ms.length > DRAWINGS) this.drawn_ms.shift();
  }

  _draw() {
    if (!this._score.doc) return;
    this._ruler.draw(this._preview ?? {});
    const top = this._lanes.scrollTop;
    const bottom = top + this._lanes.clientHeight;
    let y = 0;
    for (const { lane, clips } of this._shown()) {
      const row = this._rows.get(lane.id);
      if (y < bottom && y + row.height > top) this._drawLane(lane, clips, row);
      y += row.height + GAP_H;
    }
    this._map.draw();
    this.loudness.draw();
    this._drawWord();
    this._tell();
    this._placeTake();
    this.showPlayhead();
    this._score.look();
  }

  /** What the drawings hold, in words, for who does not see them. */
  _tell() {
    if (this._preview || this._told === this._score.doc) return;
    this._told = this._score.doc;
    this._ruler.canvas.setAttribute("aria-label", rulerWords(this._told));
    this._map.canvas.setAttribute("aria-label", `The whole film, ${clock(this._told.length_n, 1)} long`);
    for (const lane of this._told.lanes) this._rows.get(lane.id)?.canvas.setAttribute("aria-label", laneWords(lane, this._told));
  }

  _drawLane(lane, clips, row) {
    const { view } = this;
    const { doc } = this._score;
    const context = fitted(row.canvas, view.width, row.height);
    const folded = this.laneView.folded(lane.id);
    if (lane.kind === "sound") {
      const brackets = lane.speaks && !folded;
      const { passages = doc.passages } = this._preview ?? {};
      drawBands(context, { view, passages, height: row.height, chosen: this._choice.passage, brackets });
    }
    let scaled = null;
    for (const clip of clips) {
      this._placeBox(row, clip);
      if (clip.start_n > view.stop_n || clip.start_n + clip.length_n < view.start_n) continue;
      if (lane.kind === "picture") this._drawPicture(context, clip, row);
      else scaled = this._drawClip(context, lane, clip, row, folded) ?? scaled;
    }
    if (this._struck?.lane_ids.includes(lane.id)) drawStruck(context, { view, spans: this._struck.spans, height: row.height });
    if (scaled) drawScale(context, { height: row.height, curve: scaled });
  }

  _drawPicture(context, clip, row) {
    const medium = this._score.doc.media[clip.media_id];
    drawFrames(context, { view: this.view, clip, medium, strip: this._strip(clip.media_id, medium), height: row.height });
  }

  /** Draw a clip of sound; answers the curve whose points it shows, if any. */
  _drawClip(context, lane, clip, row, folded) {
    const { view } = this;
    const medium = this._score.doc.media[clip.media_id];
    const curve = this._preview?.curves?.get(clip.curve) ?? this._score.curveOf(clip);
    const gain = amplitude(lane.gain_db + clip.gain_db);
    const peaks = this._peaks.get(clip.media_id, medium);
    const lit = clip.tag === "music" && medium.sound_n && !folded ? curve : null; // has points and a glow strip
    const faded = this._unheard(lane) || clip.muted;
    drawSound(context, { view, clip, peaks, gain, height: row.height, curve, strip: Boolean(lit), faded });
    if (lit) {
      drawGlow(context, { view, clip, curve: lit, height: row.height });
      const faint = this._score.doc.mode !== "passage" && !lane.frozen; // nothing to take hold of
      drawCurve(context, { view, clip, curve: lit, height: row.height, chosen: this.points.of(clip.curve), faint });
    }
    if (clip.ride && !folded) drawRide(context, { view, clip, height: row.height });
    const knobs = !folded && (this._choice.clips.has(clip.id) || this._hovered === clip.id);
    if (knobs || clip.heard_in_n || clip.heard_out_n) drawFades(context, { view, clip, height: row.height, knobs });
    return lit;
  }

  _placeBox(row, clip) {
    const box = row.clips.get(clip.id) ?? this._strayBox(clip.id);
    if (!box) return;
    const left = this.view.x(clip.start_n);
    const right = this.view.x(clip.start_n + clip.length_n);
    const hidden = right < 0 || left > this.view.width || (right - left < LEAST_BOX_PX && !this._choice.clips.has(clip.id));
    if (box.hidden !== hidden) box.hidden = hidden;
    if (hidden) return;
    const from = Math.max(left, -2);
    const width = Math.max(3, Math.min(right, this.view.width + 2) - from);
    const place = `${from.toFixed(1)} ${width.toFixed(1)}`;
    if (box.place !== place) {
      box.place = place;
      box.style.left = `${from}px`;
      box.style.width = `${width}px`;
    }
    if (box.parentElement !== row.body) row.body.append(box);
  }

  /** The box of a clip that is being dragged over another lane. */
  _strayBox(clip_id) {
    for (const row of this._rows.values()) if (row.clips.has(clip_id)) return row.clips.get(clip_id);
    return null;
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

  /** The line of what something snapped to, and the word that goes with a drag. */
  _drawWord() {
    const { at_n = null, word = "" } = this._preview ?? {};
    this._snapLine.hidden = at_n === null;
    if (at_n !== null) this._snapLine.style.transform = `translateX(${this.view.x(at_n)}px)`;
    this._word.hidden = !word;
    if (this._word.textContent !== word) this._word.textContent = word;
    if (word && this._pointer) {
      const box = this._body.getBoundingClientRect();
      const x = Math.min(Math.max(4, this._pointer.x - box.left + 14), box.width - this._word.offsetWidth - 6);
      this._word.style.transform = `translate(${x}px, ${Math.min(this._pointer.y - box.top + 16, box.height - 26)}px)`;
    }
  }

  /** Where a take is being recorded, as far as it has come; null: none is. @param {{start_n: number, stop_n: number} | null} take */
  showTake(take) {
    this._take = take;
    this._placeTake();
  }

  _placeTake() {
    this._band.hidden = !this._take;
    if (!this._take) return;
    const left = Math.max(0, this.view.x(this._take.start_n));
    this._band.style.left = `${left}px`;
    this._band.style.width = `${Math.max(0, this.view.x(this._take.stop_n) - left)}px`;
  }

  /** Put the playhead where the sound is. */
  showPlayhead(time_n = this._at ?? 0) {
    this._at = time_n;
    const x = this.view.x(time_n);
    this._playhead.hidden = x < 0 || x > this.view.width;
    this._playhead.style.transform = `translateX(${x}px)`;
  }
}
