// The compressor's transfer curve: how far each level of the key turns the music down, with the present level on it.

import { fitted, oncePerFrame } from "../ground/canvas.js";
import { gainAt } from "../plain/curve.js";
import { JAY, LAMP, NIGHT } from "../plain/look.js";
import { figure } from "../plain/units.js";

const FLOOR_DB = -60;

export class Transfer {
  constructor(element, { pageDoc, player }) {
    this._element = element;
    this._pageDoc = pageDoc;
    this._player = player;
    this._canvas = element.querySelector("canvas");
    this._said = element.querySelector("p");
    this._told = "";
    this.draw = oncePerFrame(() => this._draw());
    this._stop = new AbortController();
    pageDoc.addEventListener("change", this.draw, { signal: this._stop.signal });
    this._watch = new ResizeObserver(this.draw);
    this._watch.observe(element);
    this._timer = setInterval(() => this._live(), 50);
    this.draw();
  }

  destroy() {
    this._stop.abort();
    this._watch.disconnect();
    clearInterval(this._timer);
    this.draw.cancel();
  }

  /** The present level of the key and the gain of the music. */
  get _now() {
    const { doc } = this._pageDoc;
    const curve = doc?.curves[doc.leading];
    if (!curve) return null;
    return { key: this._player.level?.key ?? null, gain_db: gainAt(curve, this._player.now_n) };
  }

  _live() {
    const now = this._now;
    const told = now ? `${now.key} ${now.gain_db.toFixed(1)}` : "";
    if (told !== this._told) this.draw();
    this._told = told;
  }

  _draw() {
    const { doc } = this._pageDoc;
    const [width, height] = [this._element.clientWidth, this._element.clientHeight];
    if (!doc?.transfer || !width) return;
    const context = fitted(this._canvas, width, height);
    const { level_db, gain_db } = doc.transfer;
    const pad = 8;
    const deepest = Math.min(-12, ...gain_db);
    const top = Math.max(0, ...gain_db);
    const x = (db) => pad + ((width - 2 * pad) * (Math.max(db, FLOOR_DB) - FLOOR_DB)) / -FLOOR_DB;
    const y = (db) => pad + ((height - 2 * pad - 14) * (top - db)) / (top - deepest);
    context.strokeStyle = NIGHT.rule;
    context.lineWidth = 1;
    for (let db = FLOOR_DB; db <= 0; db += 12) line(context, x(db), pad, x(db), height - pad - 14);
    for (let db = 0; db >= deepest; db -= 6) line(context, pad, y(db), width - pad, y(db));
    context.strokeStyle = JAY;
    context.setLineDash([3, 3]);
    line(context, x(doc.settings.threshold_db), pad, x(doc.settings.threshold_db), height - pad - 14);
    context.setLineDash([]);
    context.strokeStyle = LAMP.glow;
    context.lineWidth = 2;
    context.beginPath();
    level_db.forEach((db, i) => context[i ? "lineTo" : "moveTo"](x(db), y(gain_db[i])));
    context.stroke();
    this._drawNow(context, { x, y, height, pad });
  }

  _drawNow(context, { x, y, height, pad }) {
    const now = this._now;
    if (!now) return;
    const playing = now.key !== null && this._player.playing;
    if (playing) {
      context.fillStyle = JAY;
      context.beginPath();
      context.arc(x(now.key), y(now.gain_db), 5, 0, 2 * Math.PI);
      context.fill();
    }
    context.fillStyle = LAMP.bright;
    context.fillRect(2, y(0), 4, Math.max(1, Math.min(y(now.gain_db), height - pad) - y(0)));
    const said = `${figure(now.gain_db, 1)} dB${playing ? ` · key ${figure(now.key, 0)}` : ""}`;
    if (this._said.textContent !== said) this._said.textContent = said;
  }
}

function line(context, x0, y0, x1, y1) {
  context.beginPath();
  context.moveTo(x0, y0);
  context.lineTo(x1, y1);
  context.stroke();
}
