// What has points that are taken hold of: the curves ducking makes, and the gain lines drawn by hand. Both answer the same
// questions, so that points are chosen, dragged, added and typed alike on either.

import { gainAt, pinsOf } from "../plain/curve.js";
import { LEAST_DB, MOST_DB, lineOf, lineScale } from "../plain/gain_line.js";
import { curveScale } from "./lane_drawing.js";

const inside = (clip, time_n) => clip.start_n <= time_n && time_n <= clip.start_n + clip.length_n;

/** The curves of ducking, by their names in the document. */
export class DuckingCurves {
  constructor(pageDoc) {
    this._pageDoc = pageDoc;
    this.limits = [-60, 6];
    this.none = "Nothing gives way yet, so there is no curve.";
    this.scale = curveScale;
  }

  curve(name) {
    return this._pageDoc.doc?.curves[name] ?? null;
  }

  /** The name of the curve that can be taken hold of on a clip; null: none. */
  nameOn({ clip, lane }) {
    const held = clip && clip.shown_tag === "music" && clip.curve && (this._pageDoc.doc.mode === "passage" || lane.frozen);
    return held ? clip.curve : null;
  }

  /** The clip of a lane whose curve runs at a time. */
  clipAt(name, lane_id, time_n) {
    return this._pageDoc.lane(lane_id)?.clips.find((clip) => clip.curve === name && inside(clip, time_n)) ?? null;
  }

  /** @returns {[any, any]} the command that moves points, by index */
  moved(name, lane_id, points) {
    const curve = this.curve(name);
    const pins = pinsOf(curve);
    return ["move_points", { lane_id, points: points.map(({ index, to_n, to_db }) => ({ at_n: curve.time_n[index], pin: pins.get(index) ?? null, to_n, to_db })) }];
  }

  removed(name, lane_id, indices) {
    const curve = this.curve(name);
    const pins = pinsOf(curve);
    return ["remove_points", { lane_id, points: indices.map((i) => ({ at_n: curve.time_n[i], pin: pins.get(i) ?? null })) }];
  }

  added(name, lane_id, at_n) {
    const gain_db = Number(gainAt(this.curve(name), at_n).toFixed(2));
    return ["add_point", { lane_id, at_n, gain_db, dipped: gain_db < -0.5 }];
  }

  /** The curve that is meant where none is chosen: that of the chosen clip, else of the music. */
  meant(selection) {
    const lead = this._pageDoc.clip(selection.lead);
    if (lead?.clip.curve) return { name: lead.clip.curve, lane_id: lead.lane.id };
    const name = this._pageDoc.doc.leading;
    const lane = this._pageDoc.doc.lanes.find((each) => each.clips.some((clip) => clip.curve === name));
    return lane ? { name, lane_id: lane.id } : null;
  }
}

/** The gain lines of clips; a line is called by the number of its clip. */
export class GainLines {
  constructor(pageDoc) {
    this._pageDoc = pageDoc;
    this.limits = [LEAST_DB, MOST_DB];
    this.none = "Choose a clip of sound first: a gain line belongs to a clip.";
    this.scale = lineScale;
  }

  _clip(name) {
    return this._pageDoc.clip(Number(name?.slice(5)))?.clip ?? null;
  }

  curve(name) {
    const clip = name && this._pageDoc.doc && this._clip(name);
    return clip ? lineOf(clip) : null;
  }

  nameOn({ clip, lane }) {
    return clip && lane.kind === "sound" && this._pageDoc.doc.media[clip.media_id].sound_n ? `line ${clip.id}` : null;
  }

  clipAt(name, _, time_n) {
    const clip = this._clip(name);
    return clip && inside(clip, time_n) ? clip : null;
  }

  moved(name, _, points) {
    const curve = this.curve(name);
    return ["move_line", { clip_id: this._clip(name).id, points: points.map(({ index, to_n, to_db }) => ({ at_n: curve.time_n[index], to_n, to_db })) }];
  }

  removed(name, _, indices) {
    const curve = this.curve(name);
    return ["remove_from_line", { clip_id: this._clip(name).id, at_n: indices.map((i) => curve.time_n[i]) }];
  }

  added(name, _, at_n) {
    return ["add_to_line", { clip_id: this._clip(name).id, at_n, gain_db: Number(gainAt(this.curve(name), at_n).toFixed(2)) }];
  }

  meant(selection) {
    const lead = this._pageDoc.clip(selection.lead);
    const name = lead && this.nameOn(lead);
    return name ? { name, lane_id: lead.lane.id } : null;
  }
}
