// Pure: what is drawn, in words.

import { RATE, clock, figure } from "./units.js";

const many = (count, one, more = `${one}s`) => `${count} ${count === 1 ? one : more}`;

/** @param {object} doc the project's document */
export function rulerWords(doc) {
  const marks = doc.markers.map((marker) => `${marker.name} at ${clock(marker.time_n, 1)}`);
  const range = doc.in_n === null && doc.out_n === null ? [] : [`in ${doc.in_n === null ? "not set" : clock(doc.in_n, 1)}, out ${doc.out_n === null ? "not set" : clock(doc.out_n, 1)}`];
  const held = [...(marks.length ? [many(marks.length, "marker")] : []), ...marks, ...range];
  return `Time from 0 to ${clock(doc.length_n, 1)}${held.length ? `: ${held.join("; ")}` : ""}`;
}

/** A lane: how many clips, what they are, and what of it gives way. */
export function laneWords(lane, doc) {
  const clips = many(lane.clips.length, "clip");
  if (lane.kind === "picture") return `Pictures of ${lane.name}: ${clips}`;
  const parts = [`Sound of ${lane.name}: ${clips}, ${lane.shown_tag}`];
  if (lane.speaks) parts.push(many(doc.passages.length, "passage"));
  const curves = [...new Set(lane.clips.map((clip) => clip.curve).filter(Boolean))].map((name) => doc.curves[name]).filter(Boolean);
  if (curves.length) {
    const points = curves.reduce((sum, curve) => sum + curve.time_n.length, 0);
    const deepest = Math.min(...curves.flatMap((curve) => curve.gain_db));
    parts.push(`gain curve of ${many(points, "point")}, down to ${figure(deepest, 1)} dB`);
  }
  return parts.join("; ");
}

/** What is said of a clip behind its name: what it lacks, and what of its settings is not as usual. @returns {string[]} */
export function clipNotes(clip, medium) {
  const quiet = medium.sound_word === "silent" ? "its sound is silent" : "no sound";
  return [
    medium.missing ? "file missing" : medium.sound_n ? "" : quiet,
    clip.muted ? "muted" : "",
    clip.gain_db ? `${clip.gain_db > 0 ? "+" : "−"}${Math.abs(clip.gain_db).toFixed(1)} dB` : "",
    clip.channels === "both" ? "" : clip.channels,
    clip.bystander ? "bystander" : "",
    clip.trigger ? `by ${clip.trigger}` : "",
    clip.late_n ? `${figure(Math.abs(clip.late_n) / RATE, 2)} s ${clip.late_n > 0 ? "after" : "before"} its picture` : "",
  ].filter(Boolean);
}

/** The dip under a passage. @param {object} settings of it: attack_ms, release_ms, hold_ms */
export function dipWords(passage, index, settings) {
  const where = `Passage ${index + 1}, from ${clock(passage.start_n, 1)} to ${clock(passage.stop_n, 1)}`;
  if (passage.none) return `${where}: no dip`;
  const { attack_ms, hold_ms, release_ms } = settings;
  return `${where}: the music goes down to ${figure(passage.dip.amount_db, 1)} dB in ${attack_ms} ms, is held for ${hold_ms} ms and comes up in ${release_ms} ms`;
}

/** What a marker's flag says. */
export const markerWords = (marker) => `${marker.name} · ${clock(marker.time_n, 2)}`;
