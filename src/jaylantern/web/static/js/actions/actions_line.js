// Actions on gain lines drawn by hand: what is in hand, stretches, whole lines.

import { NO_CLIP } from "../project/action_reach.js";
import { say } from "../ground/said.js";

/** @returns {import("./actions.js").Action[]} */
export function lineActions({ pageDoc, selection, timeline }, reach) {
  const { chosen, doIt, now } = reach;
  const { points, stretch } = timeline;
  let copied = null; // the clip whose line was copied
  const take = () => selection.takeHand(selection.hand === "line" ? "dips" : "line");
  /** The stretch from one time to another of the chosen clips, or of those of the lane of a chosen one. */
  const over = (start_n, stop_n, none) => {
    if (start_n === null || stop_n === null || stop_n <= start_n) return say(none);
    if (!chosen().length) return say(NO_CLIP);
    selection.takeHand("line");
    const clips = reach.chosenClips().filter((clip) => clip.start_n < stop_n && clip.start_n + clip.length_n > start_n && pageDoc.doc.media[clip.media_id].sound_n);
    if (!clips.length) return say("The chosen clips show nothing of that stretch.");
    return stretch.choose({ clip_ids: clips.map((clip) => clip.id), start_n, stop_n });
  };
  const passage = () => {
    const at = reach.passage();
    over(at?.start_n ?? null, at?.stop_n ?? null, "No passage is chosen. Choose one under Duck, or with its key.");
  };
  const markers = () => {
    const times = [0, ...pageDoc.doc.markers.map((marker) => marker.time_n), pageDoc.doc.length_n].sort((a, b) => a - b);
    over(times.findLast((time_n) => time_n <= now()) ?? null, times.find((time_n) => time_n > now()) ?? null, "The playhead lies behind the last marker.");
  };
  const onLines = (deed, values = {}) => () => (chosen().length ? doIt(deed, { clip_ids: chosen(), ...values }) : say(NO_CLIP));
  const shape = (ramp) => () => {
    const { curve } = points;
    if (selection.hand !== "line" || !points.chosen.size) return say("Choose points of a gain line first.");
    const clip_id = selection.lead;
    return doIt("shape_line", { clip_id, at_n: [...points.chosen].map((i) => curve.time_n[i]), ramp });
  };

  return [
    { id: "hand", keys: "Q", says: "Take the gain line in hand, or the curves of ducking again", group: "Gain line", run: take },
    { id: "stretch-range", short: "In to out", keys: "Shift+Q", says: "Choose in to out of the chosen clips as a stretch", group: "Gain line", run: () => over(pageDoc.doc.in_n, pageDoc.doc.out_n, "Set an in and an out point first.") },
    { id: "stretch-passage", short: "Passage", says: "Choose the passage as a stretch", group: "Gain line", run: passage },
    { id: "stretch-markers", short: "Between markers", says: "Choose what lies between the markers around the playhead as a stretch", group: "Gain line", run: markers },
    { id: "stretch-level", short: "As its surroundings", keys: "Shift+L", says: "Make the stretch as loud as its surroundings", group: "Gain line", run: () => stretch.level() },
    { id: "line-half", short: "Half", says: "Half of the line of the chosen clips", group: "Gain line", run: onLines("scale_line", { factor: 0.5 }) },
    { id: "line-double", short: "Double", says: "Twice the line of the chosen clips", group: "Gain line", run: onLines("scale_line", { factor: 2 }) },
    { id: "line-clear", short: "Clear", says: "Clear the line of the chosen clips", group: "Gain line", run: onLines("clear_line") },
    { id: "line-copy", short: "Copy", says: "Copy the line of the chosen clip", group: "Gain line", run: () => {
      copied = selection.lead;
      say(copied ? "The line is copied. Choose other clips, and paste it." : NO_CLIP);
    } },
    { id: "line-paste", short: "Paste", says: "Give the copied line to the chosen clips", group: "Gain line", run: () => (copied ? onLines("copy_line", { from_id: copied })() : say("Copy the line of a clip first.")) },
    { id: "line-from-ducking", short: "Take over ducking", says: "Turn the ducking of the chosen clips into their line; they stand outside the pecking order then", group: "Gain line", run: onLines("line_from_ducking") },
    { id: "line-into-ducking", short: "Give to ducking", says: "Turn the line of the chosen clips into points of the ducking curve, frozen", group: "Gain line", run: onLines("line_into_ducking") },
    ...[["decibel", "straight in dB"], ["amplitude", "straight in amplitude"], ["eased", "eased"]].map(([ramp, word]) => (
      { id: `line-${ramp}`, short: `Ramp ${word}`, says: `The ramps behind the chosen points of the line: ${word}`, group: "Gain line", run: shape(ramp) })),
  ];
}
