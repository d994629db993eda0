// Paints one lane: what of the project and of the preview is drawn on it, in which order. How each thing looks: lane_drawing.js.

import { fitted } from "../ground/canvas.js";
import { drawBands, drawCurve, drawFades, drawFolds, drawFrames, drawGlow, drawHeld, drawLine, drawPlaces, drawRide, drawScale, drawSound, drawStruck, drawSung } from "./lane_drawing.js";
import { lineOf } from "../plain/gain_line.js";
import { amplitude } from "../plain/units.js";

export class LanePainter {
  /** @param {{pageDoc: any, selection: any, view: any, peaks: any, points: any, redraw: () => void, stretchOf: (clip: any) => number[] | null, placesOf: (clip: any) => any}} parts */
  constructor({ pageDoc, selection, view, peaks, points, redraw, stretchOf, placesOf }) {
    this._stretchOf = stretchOf;
    this._placesOf = placesOf;
    this._pageDoc = pageDoc;
    this._selection = selection;
    this._view = view;
    this._peaks = peaks;
    this._points = points;
    this._redraw = redraw;
    this._strips = new Map();
  }

  /**
   * @param {{canvas: HTMLCanvasElement, lane: any, clips: any[], height: number, folded: boolean, unheard: boolean, hovered: number | null,
   *   preview: import("../plain/preview.js").Preview | null, spans: number[][] | null}} what `spans`: stretches to be struck through
   */
  paint(what) {
    const { lane, height, folded } = what;
    const view = this._view;
    const context = fitted(what.canvas, view.width, height);
    if (lane.kind === "sound") {
      const { passages = this._pageDoc.doc.passages } = what.preview ?? {};
      drawBands(context, { view, passages, height, chosen: this._selection.passage, aside: this._selection.aside, brackets: lane.speaks && !folded });
    }
    let scaled = null;
    for (const clip of what.clips) {
      if (clip.start_n > view.stop_n || clip.start_n + clip.length_n < view.start_n) continue;
      if (lane.kind === "picture") this._picture(context, clip, height);
      else scaled = this._sound(context, clip, what) ?? scaled;
    }
    if (what.spans) drawStruck(context, { view, spans: what.spans, height });
    if (scaled && this._selection.hand !== "line") drawScale(context, { height, curve: scaled });
  }

  _picture(context, clip, height) {
    const medium = this._pageDoc.doc.media[clip.media_id];
    drawFrames(context, { view: this._view, clip, medium, strip: this._strip(clip.media_id, medium), height });
  }

  /** Draw a clip of sound; answers the curve whose points it shows, if any. */
  _sound(context, clip, { lane, height, folded, unheard, hovered, preview }) {
    const view = this._view;
    const medium = this._pageDoc.doc.media[clip.media_id];
    const curve = preview?.curves?.get(clip.curve) ?? this._pageDoc.curveOf(clip);
    const gain = amplitude(lane.gain_db + clip.gain_db);
    const peaks = this._peaks.get(clip.media_id, medium);
    const held = this._selection.hand === "line";
    const line = preview?.curves?.get(`line ${clip.id}`) ?? (held || clip.line.length ? lineOf(clip) : null);
    const lit = clip.shown_tag === "music" && medium.sound_n && !folded ? curve : null; // has points and a glow strip
    drawSound(context, { view, clip, peaks, gain, height, curve, line: line?.empty ? null : line, strip: Boolean(lit), faded: unheard || clip.muted });
    if (lit) {
      drawGlow(context, { view, clip, curve: lit, height });
      const faint = held || (this._pageDoc.doc.mode !== "passage" && !lane.frozen); // nothing to take hold of
      if (held) context.globalAlpha = 0.4;
      drawCurve(context, { view, clip, curve: lit, height, chosen: this._points.of(clip.curve), faint });
      context.globalAlpha = 1;
      const aside = this._pageDoc.held_curves[clip.curve];
      if (aside) drawHeld(context, { view, clip, curve: lit, held: aside, height });
    }
    const places = this._placesOf?.(clip);
    if (places && !folded) drawPlaces(context, { view, clip, places, height });
    if (medium.sung) drawSung(context, { view, clip, sung: medium.sung, height, folded });
    if (medium.folds) drawFolds(context, { view, clip, folds: medium.folds, height });
    if (clip.ride && !folded) drawRide(context, { view, clip, height });
    if (line && medium.sound_n && !folded) drawLine(context, { view, clip, line, height, held, chosen: this._points.of(`line ${clip.id}`), stretch: this._stretchOf?.(clip) });
    const knobs = !folded && (this._selection.clips.has(clip.id) || hovered === clip.id);
    if (knobs || clip.heard_in_n || clip.heard_out_n) drawFades(context, { view, clip, height, knobs });
    return lit;
  }

  /** The little frames of a medium, side by side in one image. */
  _strip(media_id, medium) {
    if (!medium.thumbs) return null;
    if (!this._strips.has(media_id)) {
      const image = new Image();
      image.addEventListener("load", this._redraw);
      image.src = `/media/${media_id}/thumbs`;
      this._strips.set(media_id, image);
    }
    return this._strips.get(media_id);
  }
}
