// The tuning map: a field of lamplight over two settings. Drawn coarse at once and refined row by row; the page never waits.

import { getJson } from "../ground/api.js";
import { fitted, oncePerFrame } from "../ground/canvas.js";
import { DropCard } from "../ground/drop_card.js";
import { KeyRun } from "../ground/gesture.js";
import { FIGURES, JAY, LAMP, NIGHT } from "../plain/look.js";
import { saying } from "../ground/said.js";
import { brightness, spread, stepped } from "../plain/tuning_field.js";
import { figure } from "../plain/units.js";

const ROWS = 2; // of the map in one request: others come in between
const REST_MS = 1200; // a walk goes on from where its last step went, until so long a rest
const NAMES = ["full", "dips", "flutter", "clear", "points"];
const EDGE = { left: 46, right: 10, top: 8, bottom: 30 };

export class TuningMap {
  constructor(button, { pageDoc }) {
    this._pageDoc = pageDoc;
    this._run = new KeyRun();
    this._card = new DropCard({ button, name: "Tuning map", url: () => `${pageDoc.url}/part/tuning`, shown: () => this._furnish() });
    this._card.box.classList.add("map-card");
    this._stop = new AbortController();
    this._field = null;
    this._setting = 0; // changes of its own that are on their way
    this._walked = null; // where the last step with the arrow keys went, and when
    this.draw = oncePerFrame(() => this._draw());
    pageDoc.addEventListener("change", () => this._changed(), { signal: this._stop.signal });
    this._card.box.addEventListener("toggle", (event) => event.newState === "closed" && this._halt());
  }

  destroy() {
    this._halt();
    this._stop.abort();
    this.draw.cancel();
    this._card.destroy();
  }

  _by(id) {
    return /** @type {any} */ (this._card.box.querySelector(`#${id}`));
  }

  get _names() {
    return [this._by("map-x").value, this._by("map-y").value];
  }

  _furnish() {
    this._field = this._by("map-field");
    if (!this._field) return;
    for (const id of ["map-x", "map-y"]) this._by(id).addEventListener("change", (event) => this._choose(event.target));
    this._by("map-look").addEventListener("change", () => this.draw());
    this._field.addEventListener("pointermove", (event) => this._hover(this._placeAt(event)));
    this._field.addEventListener("pointerleave", () => this._hover(null));
    this._field.addEventListener("click", (event) => {
      const place = this._placeAt(event);
      if (place) this._set(place);
    });
    this._field.addEventListener("keydown", (event) => this._key(event));
    this._begin();
  }

  /** The two must differ: the other one takes what this one was. */
  _choose(select) {
    const other = this._by(select.id === "map-x" ? "map-y" : "map-x");
    if (other.value === select.value) other.value = select.dataset.was;
    this._begin();
  }

  _halt() {
    this._turn = Symbol("halted");
  }

  /** The project has changed: by this map, which is over both settings and stays, or by something else. */
  _changed() {
    if (!this._card.open || !this._field) return;
    const { revision } = this._pageDoc.doc;
    if (!this._setting && revision !== this._seen) this._begin();
    else this._seen = revision;
    this.draw();
  }

  async _begin() {
    this._halt();
    const turn = this._turn;
    for (const id of ["map-x", "map-y"]) this._by(id).dataset.was = this._by(id).value;
    this._seen = this._pageDoc.doc.revision;
    this._map = null;
    this._cells = new Map();
    this._sweet = null;
    this._hovered = null;
    this._state("looking …");
    const query = new URLSearchParams({ x: this._names[0], y: this._names[1] });
    const url = `${this._pageDoc.url}/tuning`;
    const found = await saying(() => getJson(`${url}/coarse?${query}`));
    if (turn !== this._turn || !found) return;
    this._map = found;
    this._take(found.places);
    for (let row = 0; row < found.y.length; row += ROWS) {
      const part = await saying(() => getJson(`${url}/rows?${query}&from=${row}&to=${row + ROWS}`));
      if (turn !== this._turn || !part) return;
      this._take(part.places);
      this._sweet = part.sweet && new Set(part.sweet.map(String));
      this._state(row + ROWS < found.y.length ? `${Math.round((100 * (row + ROWS)) / found.y.length)} %` : "");
    }
  }

  _take(places) {
    for (const [i, j, ...values] of places) this._cells.set(`${i},${j}`, Object.fromEntries(NAMES.map((name, k) => [name, values[k]])));
    this.draw();
  }

  _state(text) {
    this._by("map-state").textContent = text;
  }

  // — geometry —

  get _box() {
    const { clientWidth: width, clientHeight: height } = this._field;
    return { width, height, w: (width - EDGE.left - EDGE.right) / this._map.x.length, h: (height - EDGE.top - EDGE.bottom) / this._map.y.length };
  }

  /** @returns {[number, number] | null} the place under a pointer */
  _placeAt(event) {
    if (!this._map) return null;
    const { w, h } = this._box;
    const at = this._field.getBoundingClientRect();
    const i = Math.floor((event.clientX - at.left - EDGE.left) / w);
    const j = this._map.y.length - 1 - Math.floor((event.clientY - at.top - EDGE.top) / h);
    return this._map.x[i] === undefined || this._map.y[j] === undefined ? null : [i, j];
  }

  /** Where the present settings are, in places; between them where they lie between two. */
  get _present() {
    const { settings } = this._pageDoc.doc;
    return [spread(this._map.x, settings[this._names[0]]), spread(this._map.y, settings[this._names[1]])];
  }

  // — setting —

  /** @param {number[]} place @param {string} [gesture] */
  async _set([i, j], gesture) {
    const [x, y] = this._names;
    const settings = { [x]: this._map.x[i], [y]: this._map.y[j] };
    this._setting += 1;
    await saying(() => this._pageDoc[gesture ? "drag" : "do"]("set_settings", { settings, gesture }));
    this._setting -= 1;
  }

  _key(event) {
    const way = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] }[event.key];
    if (!way || !this._map || event.altKey || event.ctrlKey || event.metaKey) return;
    event.preventDefault();
    event.stopPropagation();
    const on = this._walked && performance.now() - this._walked.when < REST_MS; // settings that are on their way count
    const place = stepped(on ? this._walked.place : this._present, way, [this._map.x.length, this._map.y.length]);
    this._walked = { place, when: performance.now() };
    this._hover(place);
    this._set(place, this._run.of(this._names.join()));
  }

  _hover(place) {
    this._hovered = place;
    this.draw();
  }

  // — drawing —

  _draw() {
    if (!this._field?.isConnected || !this._card.open) return;
    const context = fitted(this._field.querySelector("canvas"), this._field.clientWidth, this._field.clientHeight);
    if (!this._map) return;
    const { width, height, w, h } = this._box;
    const rows = this._map.y.length;
    const left = (i) => EDGE.left + i * w;
    const top = (j) => EDGE.top + (rows - 1 - j) * h;
    context.fillStyle = NIGHT.ground;
    context.fillRect(0, 0, width, height);
    this._cellsOn(context, left, top);
    this._outline(context, left, top, w, h);
    this._marks(context, left, top, w, h, height);
    this._say();
  }

  get _look() {
    const { value, selectedOptions } = this._by("map-look");
    return { name: value, more: JSON.parse(selectedOptions[0].dataset.more) };
  }

  _cellsOn(context, left, top) {
    const look = this._look;
    const bright = brightness([...this._cells.values()].map((each) => each[look.name]), look.more !== false);
    const coarse = this._cells.size < this._map.x.length * this._map.y.length;
    for (let j = 0; j < this._map.y.length; j += 1) {
      for (let i = 0; i < this._map.x.length; i += 1) {
        const cell = this._cells.get(`${i},${j}`) ?? (coarse ? this._cells.get(`${i - (i % 4) + 2},${j - (j % 4) + 2}`) : undefined);
        if (!cell) continue;
        const light = bright(cell[look.name]);
        const [x, y] = [Math.round(left(i)), Math.round(top(j))];
        const box = [x, y, Math.round(left(i + 1)) - x, Math.round(top(j - 1)) - y];
        context.fillStyle = NIGHT.lane;
        context.fillRect(...box);
        context.globalAlpha = 0.08 + 0.87 * light;
        context.fillStyle = look.name === "clear" ? JAY : LAMP.bright;
        context.fillRect(...box);
        context.globalAlpha = 1;
      }
    }
  }

  /** The sweet spot: a line around its places. */
  _outline(context, left, top, w, h) {
    if (!this._sweet) return;
    context.strokeStyle = NIGHT.ink;
    context.lineWidth = 1.5;
    context.beginPath();
    for (const place of this._sweet) {
      const [i, j] = place.split(",").map(Number);
      const line = (x1, y1, x2, y2) => {
        context.moveTo(x1, y1);
        context.lineTo(x2, y2);
      };
      if (!this._sweet.has(`${i - 1},${j}`)) line(left(i), top(j), left(i), top(j) + h);
      if (!this._sweet.has(`${i + 1},${j}`)) line(left(i) + w, top(j), left(i) + w, top(j) + h);
      if (!this._sweet.has(`${i},${j + 1}`)) line(left(i), top(j), left(i) + w, top(j));
      if (!this._sweet.has(`${i},${j - 1}`)) line(left(i), top(j) + h, left(i) + w, top(j) + h);
    }
    context.stroke();
  }

  /** The lantern of the present settings, the place under the pointer, the values at the ends. */
  _marks(context, left, top, w, h, height) {
    if (this._hovered) {
      context.strokeStyle = LAMP.glow;
      context.lineWidth = 2;
      context.strokeRect(left(this._hovered[0]), top(this._hovered[1]), w, h);
    }
    const [i, j] = this._present;
    const [x, y] = [left(i) + w / 2, top(j) + h / 2];
    context.fillStyle = LAMP.glow;
    context.strokeStyle = NIGHT.ground;
    context.lineWidth = 2;
    context.beginPath();
    context.arc(x, y - 9, 3, Math.PI, 0);
    context.rect(x - 6, y - 6, 12, 13);
    context.fill();
    context.stroke();
    context.fillStyle = NIGHT.soft;
    context.font = FIGURES;
    const [xs, ys] = [this._map.x, this._map.y];
    context.textAlign = "center";
    for (const k of [0, Math.floor(xs.length / 2), xs.length - 1]) context.fillText(figure(xs[k], xs[k] % 1 ? 2 : 0), Math.min(left(k) + w / 2, this._field.clientWidth - 18), height - 10);
    context.textAlign = "right";
    for (const k of [0, Math.floor(ys.length / 2), ys.length - 1]) context.fillText(figure(ys[k], ys[k] % 1 ? 2 : 0), EDGE.left - 6, top(k) + h / 2 + 4);
  }

  _say() {
    const named = (id, values, k) => `${this._by(id).selectedOptions[0].textContent} ${figure(values[k], values[k] % 1 ? 2 : 0)}`;
    const place = this._hovered;
    const cell = place ? this._cells.get(String(place)) : this._map.now && Object.fromEntries(NAMES.map((name, k) => [name, this._map.now[k]]));
    const where = place ? `${named("map-x", this._map.x, place[0])}, ${named("map-y", this._map.y, place[1])}` : "as when opened";
    const unit = [...this._by("map-look").options].find((each) => each.value === "clear").dataset.unit;
    const clear = cell?.clear === null ? "—" : unit === "LU" ? `${cell?.clear.toFixed(1)} LU` : `SII ${cell?.clear.toFixed(2)}`;
    const said = cell ? `${where}: full ${Math.round(100 * cell.full)} %, least clear ${clear}, flutter ${cell.flutter}, dips ${cell.dips}, points ${cell.points}` : `${where}: …`;
    if (this._by("map-said").textContent !== said) this._by("map-said").textContent = said;
  }
}
