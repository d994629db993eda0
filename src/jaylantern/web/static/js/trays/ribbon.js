// The ribbon: a recording from left to right, what is heard of it as lit paper, folded where something is left out or said again.
// What is left out lies dim beneath. Folds are handles; a stretch is chosen by dragging.

import { fitted, oncePerFrame } from "../ground/canvas.js";
import { placeOf, tiersOf } from "../plain/ribbon_shape.js";
import { clock } from "../plain/units.js";

const [TOP, BOTTOM, SIDE] = [18, 26, 8];
const HANDLE_PX = 9;
const LAMP = "242,176,61";

export class Ribbon extends EventTarget {
  /** @param {HTMLElement} box @param {{drawn: any, pageDoc: any, peaks: any, player: any}} parts */
  constructor(box, { drawn, pageDoc, peaks, player }) {
    super();
    this.box = box;
    /** The chosen stretch of the recording. @type {[number, number] | null} */
    this.stretch = null;
    this._drawn = drawn;
    this._pageDoc = pageDoc;
    this._peaks = peaks;
    this._player = player;
    box.innerHTML = '<canvas role="img"></canvas><div class="ribbon-handles" role="group" aria-label="Folds"></div>';
    this._canvas = /** @type {HTMLCanvasElement} */ (box.querySelector("canvas"));
    this._shape = tiersOf(drawn.pieces);
    this._pieces = drawn.pieces.length ? drawn.pieces : [[drawn.offset_n, drawn.offset_n + drawn.heard_n, 0, drawn.heard_n]];
    this._at = drawn.pieces.length ? this._shape.at : [0];
    this._handles = drawn.folds.map((fold, i) => this._handle(fold, i));
    this._canvas.setAttribute("aria-label", this._words());
    this.draw = oncePerFrame(() => this._draw());
    this._stop = new AbortController();
    const options = { signal: this._stop.signal };
    peaks.addEventListener("arrived", this.draw, options);
    player.addEventListener("state", this.draw, options);
    box.addEventListener("pointerdown", (event) => this._press(event), options);
    this._watch = new ResizeObserver(() => this.draw());
    this._watch.observe(box);
    this.draw();
  }

  destroy() {
    this._stop.abort();
    this._watch.disconnect();
    this.draw.cancel();
  }

  _words() {
    const { folds, length_n } = this._drawn;
    const found = folds.map((fold, i) => `fold ${i + 1} leaves at ${clock(fold.left_n, 1)} and goes on at ${clock(fold.right_n, 1)}`);
    return `A recording of ${clock(length_n, 1)}${found.length ? `: ${found.join(", ")}` : ", not folded"}`;
  }

  get _width() {
    return this.box.clientWidth;
  }

  _x(time_n) {
    return SIDE + (time_n / this._drawn.length_n) * (this._width - 2 * SIDE);
  }

  _time(x) {
    const share = (x - SIDE) / Math.max(1, this._width - 2 * SIDE);
    return Math.round(Math.min(Math.max(share, 0), 1) * this._drawn.length_n);
  }

  /** Top and height of a tier. */
  _tier(number) {
    const tiers = Math.max(1, this._shape.tiers);
    const room = this.box.clientHeight - TOP - BOTTOM;
    const gap = tiers > 1 ? Math.min(14, room / tiers / 3) : 0;
    const height = (room - gap * (tiers - 1)) / tiers;
    return [TOP + number * (height + gap), height];
  }

  _draw() {
    const [width, height] = [this._width, this.box.clientHeight];
    if (!width || !height) return;
    const context = fitted(this._canvas, width, height);
    const medium = this._pageDoc.doc?.media[this._drawn.media_id];
    const peaks = medium ? this._peaks.get(this._drawn.media_id, medium) : null;
    const columns = peaks?.columns(this._time(0), this._drawn.length_n / Math.max(1, width - 2 * SIDE), width) ?? null;
    this._beneath(context, columns, width, height);
    this._pieces.forEach((piece, k) => this._piece(context, columns, piece, k));
    this._folds(context);
    this._grid(context, height);
    this._marks(context, height);
    this._playing(context);
    this._place();
  }

  /** The whole recording, dim: what is left out is seen of it. */
  _beneath(context, columns, width, height) {
    const [top, room] = [TOP, height - TOP - BOTTOM];
    context.fillStyle = "rgba(122,135,151,.10)";
    context.fillRect(SIDE, top, width - 2 * SIDE, room);
    if (columns) this._wave(context, columns, SIDE, width - SIDE, top, room, "rgba(147,161,178,.30)");
  }

  _wave(context, columns, from, to, top, height, colour) {
    const middle = top + height / 2;
    const scale = ((height / 2) * 0.9) / (this._loudest(columns) || 1);
    context.fillStyle = colour;
    for (let x = Math.max(0, Math.floor(from)); x < to; x += 1) {
      const at = Math.round(x - SIDE);
      if (at < 0 || 2 * at + 1 >= columns.length) continue;
      const low = columns[2 * at] * scale;
      const high = columns[2 * at + 1] * scale;
      context.fillRect(x, middle - high, 1, Math.max(1, high - low));
    }
  }

  /** The largest value of the recording: it fills the ribbon. */
  _loudest(columns) {
    if (this._measured !== columns) {
      this._measured = columns;
      this._peak = columns.reduce((most, value) => Math.max(most, Math.abs(value)), 0);
    }
    return this._peak;
  }

  _piece(context, columns, [from_n, to_n], k) {
    const [left, right] = [this._x(from_n), this._x(to_n)];
    const [top, height] = this._tier(this._at[k]);
    context.fillStyle = "#2A2416";
    context.fillRect(left, top, right - left, height);
    context.fillStyle = `rgba(${LAMP},.16)`;
    context.fillRect(left, top, right - left, height);
    if (columns) this._wave(context, columns, left, right, top, height, `rgb(${LAMP})`);
    context.fillStyle = `rgba(${LAMP},.85)`;
    context.fillRect(left, top, right - left, 1.5);
  }

  /** A fold: the paper turned under at both edges, and the way from one to the other. */
  _folds(context) {
    this._drawn.folds.forEach((fold, i) => {
      const [topA, height] = this._tier(this._at[i]);
      const [topB] = this._tier(this._at[i + 1]);
      const [left, right] = [this._x(fold.left_n), this._x(fold.right_n)];
      const flap = Math.min(12, Math.max(5, Math.abs(right - left) / 2));
      const down = right < left;
      context.fillStyle = "#7A5410";
      for (const [x, top, way] of [[left, topA, 1], [right, topB, -1]]) {
        context.beginPath();
        context.moveTo(x, top);
        context.lineTo(x + way * flap, top + height * 0.14);
        context.lineTo(x + way * flap, top + height * 0.86);
        context.lineTo(x, top + height);
        context.fill();
      }
      context.strokeStyle = "rgba(247,243,234,.75)";
      context.lineWidth = 1.25;
      context.setLineDash([3, 3]);
      context.beginPath();
      if (down) {
        context.moveTo(left, topA + height);
        context.lineTo(right, topB);
      } else {
        context.moveTo(left + flap, topA + height / 2);
        context.lineTo(right - flap, topA + height / 2);
      }
      context.stroke();
      context.setLineDash([]);
    });
  }

  /** Beats as fine dots along the foot, bars a little stronger. */
  _grid(context, height) {
    const { beats, bars, step_n, length_n } = this._drawn;
    const y = height - BOTTOM + 8;
    const room = (step_n / length_n) * (this._width - 2 * SIDE);
    if (room >= 2.4) {
      context.fillStyle = "rgba(147,161,178,.55)";
      for (const beat of beats) context.fillRect(this._x(beat) - 0.5, y, 1, 2);
    }
    context.fillStyle = "rgba(247,243,234,.8)";
    const every = Math.max(1, Math.ceil(3 / Math.max(0.01, ((bars[1] - bars[0]) / length_n) * (this._width - 2 * SIDE))));
    bars.forEach((bar, i) => i % every === 0 && context.fillRect(this._x(bar) - 0.5, y - 1, 1, 4));
  }

  /** Protected stretches are underlined and named, those left out struck through; the chosen one is framed. */
  _marks(context, height) {
    context.font = '500 11px "Hyperlegible Mono", monospace';
    for (const [name, word, colour] of [["protect", "protected", "#6FB2F0"], ["leave_out", "left out", "#E58A76"]]) {
      for (const [from_n, to_n] of this._drawn[name]) {
        const [left, right] = [this._x(from_n), this._x(Math.min(to_n, this._drawn.length_n))];
        context.fillStyle = colour;
        context.fillRect(left, height - BOTTOM + 14, Math.max(2, right - left), 3);
        if (name === "leave_out") {
          context.save();
          context.globalAlpha = 0.35;
          context.beginPath();
          context.rect(left, TOP, right - left, height - TOP - BOTTOM);
          context.clip();
          context.strokeStyle = colour;
          context.lineWidth = 1;
          context.beginPath();
          for (let x = left - height; x < right; x += 9) {
            context.moveTo(x, height - BOTTOM);
            context.lineTo(x + height, TOP - BOTTOM);
          }
          context.stroke();
          context.restore();
        }
        if (right - left > 56) context.fillText(word, left + 3, TOP - 5);
      }
    }
    if (!this.stretch) return;
    const [left, right] = this.stretch.map((n) => this._x(n));
    context.fillStyle = "rgba(111,178,240,.18)";
    context.fillRect(left, TOP - 4, right - left, height - TOP - BOTTOM + 8);
    context.strokeStyle = "#6FB2F0";
    context.strokeRect(left + 0.5, TOP - 3.5, right - left - 1, height - TOP - BOTTOM + 7);
  }

  /** Where it is heard now. */
  _playing(context) {
    const { start_n, offset_n, heard_n } = this._drawn;
    const at_n = this._player.now_n - start_n;
    if (at_n >= 0 && at_n < heard_n) {
      const { piece, time_n } = placeOf(this._pieces, at_n + (this._drawn.tailored ? offset_n : 0));
      const [top, room] = this._tier(this._at[piece]);
      context.fillStyle = "#F7F3EA";
      context.fillRect(this._x(time_n) - 0.75, top - 3, 1.5, room + 6);
    }
    if (this._player.playing) this.draw();
  }

  // — folds as handles —

  _handle(fold, i) {
    const handle = document.createElement("button");
    handle.type = "button";
    handle.className = "fold-handle";
    handle.textContent = String(i + 1);
    handle.title = `Fold ${i + 1}: fits better than all but ${fold.fit.toFixed(1)} % of the others. Click to hear it, drag or ←/→ to move it, Delete for another`;
    handle.addEventListener("keydown", (event) => {
      const by = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
      if (by === undefined && event.key !== "Delete") return;
      event.preventDefault();
      event.stopPropagation();
      this._tell(by === undefined ? "another" : "move", by === undefined ? { fold: i } : { fold: i, by });
    });
    handle.addEventListener("pointerdown", (event) => this._drag(event, handle, i));
    handle.addEventListener("click", (event) => event.detail === 0 && this._tell("hear", i));
    this.box.querySelector(".ribbon-handles").append(handle);
    return handle;
  }

  _place() {
    this._handles.forEach((handle, i) => {
      const [top, height] = this._tier(this._at[i]);
      handle.style.left = `${this._x(this._drawn.folds[i].left_n) - HANDLE_PX}px`;
      handle.style.top = `${top + height / 2 - HANDLE_PX}px`;
    });
  }

  /** A press without a drag is a click: the fold is heard. */
  _drag(event, handle, i) {
    if (event.button !== 0) return;
    event.preventDefault();
    event.stopPropagation();
    handle.focus();
    handle.setPointerCapture(event.pointerId);
    const stop = new AbortController();
    const step = (this._drawn.step_n / this._drawn.length_n) * (this._width - 2 * SIDE);
    let by = 0;
    handle.addEventListener("pointermove", (moved) => {
      by = Math.round((moved.clientX - event.clientX) / step);
      handle.style.transform = `translateX(${by * step}px)`;
    }, { signal: stop.signal });
    const done = () => {
      stop.abort();
      handle.style.transform = "";
      this._tell(by ? "move" : "hear", by ? { fold: i, by: Math.max(-64, Math.min(64, by)) } : i);
    };
    handle.addEventListener("pointerup", done, { signal: stop.signal });
    handle.addEventListener("pointercancel", () => stop.abort(), { signal: stop.signal });
  }

  // — a stretch is chosen —

  _press(event) {
    if (event.button !== 0 || event.target.closest(".fold-handle")) return;
    event.preventDefault();
    const left = this.box.getBoundingClientRect().left;
    const from_n = this._time(event.clientX - left);
    this.box.setPointerCapture(event.pointerId);
    const stop = new AbortController();
    const to = (moved) => {
      const ends = [from_n, this._time(moved.clientX - left)].sort((a, b) => a - b);
      this.stretch = Math.abs(moved.clientX - event.clientX) > 3 ? [ends[0], ends[1]] : null;
      this.draw();
    };
    const done = (moved) => {
      to(moved);
      stop.abort();
      this.dispatchEvent(new Event("stretch"));
    };
    this.box.addEventListener("pointermove", to, { signal: stop.signal });
    this.box.addEventListener("pointerup", done, { signal: stop.signal });
    this.box.addEventListener("pointercancel", () => stop.abort(), { signal: stop.signal });
  }

  _tell(name, detail) {
    this.dispatchEvent(new CustomEvent(name, { detail }));
  }
}
