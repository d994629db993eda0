// Draws what lies on one lane: frames of the picture, waveforms, the bed with its ghost, its curve and its glow strip.

import { deepest, gainAt, pinsOf, pointsWithin, upper } from "../plain/curve.js";
import { strokeCurve } from "../ground/curve_drawing.js";
import { lineScale } from "../plain/gain_line.js";
import { BY_TAG, FIGURES, GHOSTS, HAND, JAY, LAMP, NIGHT, PICTURE } from "../plain/look.js";
import { fadeAt } from "../plain/fades.js";
import { amplitude } from "../plain/units.js";

const RIDE_DB = 12; // of the leveller's line, from the middle of the lane to its edge
const GLOW_H = 15;
const MOST_POINTS = 240;
const LABEL_H = 17;

/** Scale of the curve in a lane: dB to y and back. What lies over 0 dB is drawn at the very top. */
export function curveScale(height, curve) {
  const floor_db = Math.min(-18, Math.floor((deepest(curve) - 3) / 6) * 6);
  const top = 9;
  const bottom = height - GLOW_H - 12;
  const y = (gain_db) => Math.max(3, top + ((bottom - top) * Math.max(gain_db, floor_db)) / floor_db);
  return { floor_db, y, db: (at) => ((at - top) * floor_db) / (bottom - top) };
}

/** Stretches of talk as light bands behind everything. */
export function drawBands(context, { view, passages, height, chosen, aside, brackets }) {
  if (aside) {
    context.fillStyle = "rgba(240,160,144,.13)";
    context.fillRect(view.x(aside.start_n), 0, Math.max(1, (aside.stop_n - aside.start_n) / view.n_per_px), height);
  }
  passages.forEach((passage, i) => {
    if (passage.stop_n < view.start_n || passage.start_n > view.stop_n) return;
    const x0 = view.x(passage.start_n);
    const x1 = view.x(passage.stop_n);
    context.fillStyle = i === chosen ? "rgba(111,178,240,.20)" : "rgba(111,178,240,.09)";
    context.fillRect(x0, 0, Math.max(1, x1 - x0), height);
    if (!brackets) return;
    context.strokeStyle = passage.touched ? LAMP.glow : JAY;
    context.lineWidth = passage.touched ? 2.5 : 1.5;
    context.beginPath();
    context.moveTo(x0 + 0.75, 7);
    context.lineTo(x0 + 0.75, 2);
    context.lineTo(x1 - 0.75, 2);
    context.lineTo(x1 - 0.75, 7);
    context.stroke();
  });
}

/** A clip of sound, over its ghost where it yields; `strip`: room is left for a glow strip. `gain`: factor of the faders; `line`: drawn by hand. */
export function drawSound(context, { view, clip, peaks, gain, height, curve, line = null, strip, faded }) {
  const left = Math.max(0, Math.floor(view.x(clip.start_n)));
  const right = Math.min(view.width, Math.ceil(view.x(clip.start_n + clip.length_n)));
  if (right <= left) return;
  const colour = BY_TAG[clip.shown_tag];
  context.globalAlpha = faded ? 0.35 : 1;
  const body = height - (strip ? GLOW_H + 4 : 0);
  const middle = body / 2;
  context.fillStyle = colour;
  context.globalAlpha *= 0.55;
  context.fillRect(left, middle - 0.5, right - left, 1);
  context.globalAlpha = faded ? 0.35 : 1;
  if (peaks) {
    const columns = peaks.columns(view.time(left) - clip.start_n + clip.offset_n, view.n_per_px, right - left);
    if (clip.heard_in_n || clip.heard_out_n) scaleColumns(columns, view, left, (time_n) => fadeAt(clip, time_n));
    if (line) scaleColumns(columns, view, left, (time_n) => amplitude(gainAt(line, time_n)));
    if (curve) {
      wave(context, { columns, left, middle, gain, colour: GHOSTS[clip.shown_tag] ?? LAMP.ghost, limit: body / 2 - 1 });
      const fill = context.createLinearGradient(0, 0, 0, body);
      fill.addColorStop(0, LAMP.glow);
      fill.addColorStop(0.45, LAMP.bright);
      fill.addColorStop(1, LAMP.bright);
      const ducked = (i) => amplitude(gainAt(curve, view.time(left + i + 0.5)));
      wave(context, { columns, left, middle, gain, colour: clip.shown_tag === "music" ? fill : colour, ducked, limit: body / 2 - 1 });
    } else {
      wave(context, { columns, left, middle, gain, colour, limit: body / 2 - 1 });
    }
  }
  context.globalAlpha = 1;
}

function scaleColumns(columns, view, left, factorAt) {
  for (let i = 0; i < columns.length / 2; i += 1) {
    const value = factorAt(view.time(left + i + 0.5));
    columns[2 * i] *= value;
    columns[2 * i + 1] *= value;
  }
}

/** The fades of a clip as lines over it, and their knobs where the clip is chosen or under the pointer. */
export function drawFades(context, { view, clip, height, knobs }) {
  const left = view.x(clip.start_n);
  const right = view.x(clip.start_n + clip.length_n);
  const top = 2;
  context.strokeStyle = "rgba(247,243,234,.75)";
  context.lineWidth = 1.25;
  const course = (from_x, width) => {
    if (width < 2) return;
    context.beginPath();
    const steps = Math.min(40, Math.ceil(width / 2));
    for (let i = 0; i <= steps; i += 1) {
      const x = from_x + (width * i) / steps;
      const y = top + (height - 2 * top) * (1 - fadeAt(clip, view.time(x)));
      context[i ? "lineTo" : "moveTo"](x, y);
    }
    context.stroke();
  };
  course(left, clip.heard_in_n / view.n_per_px);
  course(right - clip.heard_out_n / view.n_per_px, clip.heard_out_n / view.n_per_px);
  if (!knobs || right - left < 20) return;
  context.fillStyle = NIGHT.ink;
  for (const [x, way] of [[left + clip.fade_in_n / view.n_per_px, 1], [right - clip.fade_out_n / view.n_per_px, -1]]) {
    context.beginPath();
    context.moveTo(x, 1);
    context.lineTo(x + 9 * way, 1);
    context.lineTo(x, 10);
    context.closePath();
    context.fill();
  }
}

/** Where somebody sings: a wavy line at the head of the clip, with the word where there is room for it. */
export function drawSung(context, { view, clip, sung, height, folded }) {
  const shift_n = clip.start_n - clip.offset_n;
  context.strokeStyle = "#F3D9A4";
  context.lineWidth = 1.25;
  for (const [from_n, to_n] of sung) {
    const start_n = Math.max(from_n + shift_n, clip.start_n, view.start_n);
    const stop_n = Math.min(to_n + shift_n, clip.start_n + clip.length_n, view.stop_n);
    if (stop_n <= start_n) continue;
    const [x0, x1] = [view.x(start_n), view.x(stop_n)];
    const y = folded ? 4 : Math.min(22, height / 2);
    context.beginPath();
    for (let x = x0; x <= x1; x += 1) context.lineTo(x, y + 2 * Math.sin((x - x0) * 0.7));
    context.stroke();
    if (folded || x1 - x0 < 60) continue;
    context.fillStyle = "#F3D9A4";
    context.font = FIGURES;
    context.fillText("sung", x0 + 2, y + 14);
  }
}

/** Where a voice hisses (ticks from below) and breathes (rings), as far as it is lowered; what is spared is hollow and dim. */
export function drawPlaces(context, { view, clip, places, height }) {
  const shift_n = clip.start_n - clip.offset_n;
  const spared = new Set(places.spared);
  context.lineWidth = 1.5;
  for (const [part, times] of Object.entries(places.places)) {
    if (!places.on[part]) continue;
    for (const at_n of times) {
      const x = view.x(at_n + shift_n);
      if (x < -4 || x > view.width + 4) continue;
      context.globalAlpha = spared.has(at_n) ? 0.35 : 1;
      context.strokeStyle = HAND;
      context.beginPath();
      if (part === "breaths") context.arc(x, height - 7, 3, 0, 2 * Math.PI);
      else {
        context.moveTo(x, height - 3);
        context.lineTo(x, height - 11);
      }
      context.stroke();
    }
  }
  context.globalAlpha = 1;
}

/** Stretches of a lane that would be cut out, struck through. */
export function drawStruck(context, { view, spans, height }) {
  context.fillStyle = "rgba(226,120,98,.34)";
  context.strokeStyle = "#F0A090";
  context.lineWidth = 1.5;
  for (const [start_n, stop_n] of spans) {
    if (stop_n < view.start_n || start_n > view.stop_n) continue;
    const x0 = view.x(start_n);
    const x1 = Math.max(view.x(stop_n), x0 + 1);
    context.fillRect(x0, 0, x1 - x0, height);
    context.beginPath();
    context.moveTo(x0, height / 2);
    context.lineTo(x1, height / 2);
    context.stroke();
  }
}

/** Quiet sound drawn somewhat larger than it is, so that soft speech can be seen at all. */
const lifted = (value) => (value > 0 ? value ** 0.72 : 0);

/** A waveform as one outline: along its upper edge and back along the lower one. */
function wave(context, { columns, left, middle, gain, colour, limit, ducked = null }) {
  const count = columns.length / 2;
  const lower = new Float32Array(count);
  context.fillStyle = colour;
  context.beginPath();
  for (let i = 0; i < count; i += 1) {
    const scale = gain * (ducked ? ducked(i) : 1);
    const up = Math.min(lifted(columns[2 * i + 1] * scale) * limit, limit);
    const down = Math.min(lifted(-columns[2 * i] * scale) * limit, limit);
    const sounds = up > 0.3 || down > 0.3;
    const thin = sounds && up + down < 1 ? (1 - up - down) / 2 : 0; // at least a pixel where there is any sound
    lower[i] = sounds ? middle + down + thin : middle;
    context.lineTo(left + i, sounds ? middle - up - thin : middle);
  }
  context.lineTo(left + count, middle);
  for (let i = count - 1; i >= 0; i -= 1) context.lineTo(left + i + 1, lower[i]);
  context.closePath();
  context.fill();
}

/** The leveller's gain line over a clip of dialogue: 0 dB in the middle, ±12 dB at the edges. */
export function drawRide(context, { view, clip, height }) {
  const from = Math.max(clip.start_n, view.start_n);
  const to = Math.min(clip.start_n + clip.length_n, view.stop_n);
  if (to <= from) return;
  strokeCurve(context, { view, curve: clip.ride, from, to, y: (db) => (height / 2) * (1 - db / RIDE_DB) });
}

/** The glow strip: as bright as the music is loud. */
export function drawGlow(context, { view, clip, curve, height }) {
  const left = Math.max(0, Math.floor(view.x(clip.start_n)));
  const right = Math.min(view.width, Math.ceil(view.x(clip.start_n + clip.length_n)));
  const top = height - GLOW_H;
  context.fillStyle = "#2B2416";
  context.fillRect(left, top, Math.max(0, right - left), GLOW_H - 2);
  context.fillStyle = LAMP.bright;
  for (let x = left; x < right; x += 3) {
    context.globalAlpha = amplitude(gainAt(curve, view.time(x + 1.5)));
    context.fillRect(x, top, Math.min(3, right - x), GLOW_H - 2);
  }
  context.globalAlpha = 1;
}

/** The gain curve of a clip with its points, as far as they are in view; those set by hand are diamonds, the chosen filled. */
export function drawCurve(context, { view, clip, curve, height, chosen = null, faint = false }) {
  const from = Math.max(clip.start_n, view.start_n);
  const to = Math.min(clip.start_n + clip.length_n, view.stop_n);
  if (to <= from) return;
  const scale = curveScale(height, curve);
  strokeCurve(context, { view, curve, from, to, y: scale.y });
  const first = upper(curve.time_n, from - 1);
  const last = upper(curve.time_n, to);
  if (faint || last - first > MOST_POINTS) return;
  const pins = pinsOf(curve);
  context.lineWidth = 1.5;
  for (let i = first; i < last; i += 1) {
    context.fillStyle = chosen?.has(i) ? NIGHT.ink : pins.has(i) ? LAMP.bright : NIGHT.ground;
    drawPoint(context, view.x(curve.time_n[i]), scale.y(curve.gain_db[i]), pins.has(i), chosen?.has(i));
  }
}

/** What the held draft would do, dashed, on the scale of the curve that is there. */
export function drawHeld(context, { view, clip, curve, held, height }) {
  const from = Math.max(clip.start_n, view.start_n);
  const to = Math.min(clip.start_n + clip.length_n, view.stop_n);
  if (to <= from) return;
  const { y } = curveScale(height, curve);
  context.strokeStyle = LAMP.glow;
  context.lineWidth = 1.5;
  context.setLineDash([2, 4]);
  context.beginPath();
  pointsWithin(held, from, to).forEach(([n, db], i) => context[i ? "lineTo" : "moveTo"](view.x(n), y(db)));
  context.stroke();
  context.setLineDash([]);
}

/**
 * The gain line of a clip: in hand a bold line with square points over a thin one at 0 dB, else a dashed one.
 * @param {CanvasRenderingContext2D} context
 * @param {{view: any, clip: any, line: any, height: number, held: boolean, chosen?: Set<number> | null, stretch?: number[] | null}} what
 */
export function drawLine(context, { view, clip, line, height, held, chosen = null, stretch = null }) {
  const from = Math.max(clip.start_n, view.start_n);
  const to = Math.min(clip.start_n + clip.length_n, view.stop_n);
  if (to <= from) return;
  const scale = lineScale(height, line);
  context.save();
  if (held && stretch) {
    const [x0, x1] = stretch.map((time_n) => view.x(Math.min(Math.max(time_n, from), to)));
    context.fillStyle = "rgba(143,224,190,.16)";
    context.fillRect(x0, 0, x1 - x0, height);
    context.strokeStyle = HAND;
    context.lineWidth = 1;
    context.strokeRect(x0 + 0.5, 0.5, Math.max(1, x1 - x0 - 1), height - 1);
  }
  context.strokeStyle = HAND;
  if (held) {
    context.globalAlpha = 0.35;
    context.lineWidth = 1;
    context.beginPath();
    context.moveTo(view.x(from), Math.round(scale.y(0)) + 0.5);
    context.lineTo(view.x(to), Math.round(scale.y(0)) + 0.5);
    context.stroke();
    context.globalAlpha = 1;
  } else {
    context.setLineDash([5, 4]);
  }
  context.lineWidth = held ? 2.25 : 1.25;
  context.lineJoin = "round";
  context.beginPath();
  let flat = true; // where it does nothing it is shown in hand only
  for (const [n, db] of pointsWithin(line, from, to)) {
    context[flat && db === 0 && !held ? "moveTo" : "lineTo"](view.x(n), scale.y(db));
    flat = db === 0;
  }
  context.stroke();
  const first = upper(line.time_n, from - 1);
  const last = upper(line.time_n, to);
  if (held && !line.empty && last - first <= MOST_POINTS) {
    for (let i = first; i < last; i += 1) {
      const size = chosen?.has(i) ? 5 : 3.5;
      context.fillStyle = chosen?.has(i) ? NIGHT.ink : NIGHT.ground;
      context.lineWidth = 1.5;
      context.beginPath();
      context.rect(view.x(line.time_n[i]) - size, scale.y(line.gain_db[i]) - size, 2 * size, 2 * size);
      context.fill();
      context.stroke();
    }
  }
  context.restore();
}

function drawPoint(context, x, y, pinned, chosen) {
  const size = chosen ? 5 : pinned ? 4.6 : 3.2;
  context.beginPath();
  if (pinned) {
    context.moveTo(x, y - size);
    context.lineTo(x + size, y);
    context.lineTo(x, y + size);
    context.lineTo(x - size, y);
    context.closePath();
  } else {
    context.arc(x, y, size, 0, 2 * Math.PI);
  }
  context.fill();
  context.stroke();
}

const scales = new Map(); // written once, then copied: letters with an outline are slow to draw
const SCALE_W = 30;

/** dB lines of the curve, written at the left edge. */
export function drawScale(context, { height, curve }) {
  const scale = curveScale(height, curve);
  const ratio = globalThis.devicePixelRatio ?? 1;
  const key = `${height} ${scale.floor_db} ${ratio} ${document.fonts.status}`;
  if (!scales.has(key)) scales.set(key, writtenScale(scale, height, ratio));
  context.drawImage(scales.get(key), 0, 0, SCALE_W, height);
}

function writtenScale(scale, height, ratio) {
  const canvas = document.createElement("canvas");
  canvas.width = Math.round(SCALE_W * ratio);
  canvas.height = Math.round(height * ratio);
  const context = canvas.getContext("2d");
  context.scale(ratio, ratio);
  context.font = FIGURES;
  context.textBaseline = "middle";
  context.textAlign = "right";
  const step = [6, 12, 24, 48].find((each) => scale.y(-each) - scale.y(0) >= LABEL_H) ?? 60;
  for (let gain_db = 0; gain_db >= scale.floor_db; gain_db -= step) {
    const text = `${gain_db}`.replace("-", "−");
    context.lineWidth = 4;
    context.strokeStyle = NIGHT.lane;
    context.strokeText(text, 25, scale.y(gain_db));
    context.fillStyle = "#C3CCD6";
    context.fillText(text, 25, scale.y(gain_db));
  }
  return canvas;
}

/** Frames of a picture clip side by side. @param {HTMLImageElement | null} strip */
export function drawFrames(context, { view, clip, medium, strip, height }) {
  const left = view.x(clip.start_n);
  const right = view.x(clip.start_n + clip.length_n);
  context.fillStyle = "#26323F";
  context.fillRect(left, 2, right - left, height - 4);
  if (!strip?.complete || !strip.naturalWidth || !medium.thumbs) return;
  const frame_w = strip.naturalWidth / medium.thumbs;
  const width = ((height - 4) * frame_w) / strip.naturalHeight;
  context.save();
  context.beginPath();
  context.rect(left, 2, right - left, height - 4);
  context.clip();
  const first = Math.max(0, Math.floor(-left / width));
  for (let i = first; left + i * width < Math.min(right, view.width); i += 1) {
    const time_n = (i + 0.5) * width * view.n_per_px + clip.offset_n;
    const frame = Math.min(medium.thumbs - 1, Math.max(0, Math.floor((time_n / medium.length_n) * medium.thumbs)));
    context.drawImage(strip, frame * frame_w, 0, frame_w, strip.naturalHeight, left + i * width, 2, width - 1, height - 4);
  }
  context.restore();
  context.strokeStyle = PICTURE;
  context.strokeRect(left + 0.5, 2.5, right - left - 1, height - 5);
}

/** Where tailored music is folded: a crease across the clip, its paper turned under at the upper edge. */
export function drawFolds(context, { view, clip, folds, height }) {
  for (const at_n of folds) {
    const n = at_n - clip.offset_n;
    if (n <= 0 || n >= clip.length_n) continue;
    const x = Math.round(view.x(clip.start_n + n)) + 0.5;
    if (x < -8 || x > view.width + 8) continue;
    context.strokeStyle = "rgba(247,243,234,.55)";
    context.lineWidth = 1;
    context.setLineDash([2, 3]);
    context.beginPath();
    context.moveTo(x, 0);
    context.lineTo(x, height);
    context.stroke();
    context.setLineDash([]);
    context.fillStyle = "#F7F3EA";
    context.beginPath();
    context.moveTo(x - 5, 0);
    context.lineTo(x + 5, 0);
    context.lineTo(x, 7);
    context.fill();
  }
}
