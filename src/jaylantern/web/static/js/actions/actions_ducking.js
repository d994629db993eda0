// Actions on what the music does: passages, points and curves, triggers.

import { triggerMenu } from "../timeline/clip_menus.js";
import { menuItems, openMenu } from "../ground/menu.js";
import { say } from "../ground/said.js";
import { RATE } from "../plain/units.js";

const EDGE_N = RATE / 20; // how far a press moves the edge of a passage
const NO_CURVE = "Nothing gives way yet, so there is no curve.";
const MORE = ["passage-exact", null, "is-speech", "not-speech-range", null, "trigger", null, "lift-passages"];

/** @returns {import("./actions.js").Action[]} */
export function duckActions({ pageDoc, selection, timeline }, reach, { exactPassage, keyOf, all }) {
  const { chosen, doIt, noPassage, now, passage, presses } = reach;
  const { points } = timeline;
  /** @param {any} deed @param {(passage: any) => object} values */
  const onPassage = (deed, values = () => ({})) => () => {
    if (passage()) doIt(deed, { index: selection.passage, ...values(passage()) });
    else say(noPassage());
  };
  const lift = () => (selection.aside ? doIt("lift_passage", { ...selection.aside }) : onPassage("lift_passage")());
  const moveEdge = (edge, way) => () => {
    const at = passage();
    if (!at) say(noPassage());
    else {
      const to_n = Math.max(0, Math.round(at[`${edge}_n`] + way * EDGE_N));
      doIt("move_edge", { index: selection.passage, edge, to_n, gesture: presses.of(`edge ${edge} ${selection.passage}`) });
    }
  };
  const inOut = (speech) => () => {
    const { in_n, out_n } = pageDoc.doc;
    if (in_n === null || out_n === null) say(`Set the in point (${keyOf("in")}) and the out point (${keyOf("out")}) around what is meant first.`);
    else doIt("mark_speech", { start_n: in_n, stop_n: out_n, speech, clip_ids: chosen() });
  };
  const onCurve = (deed) => () => {
    const target = points.target(selection);
    if (target) doIt(deed, { lane_id: target.lane_id });
    else say(NO_CURVE);
  };
  const addPoint = () => {
    const target = points.target(selection);
    if (target) points.add(target.lane_id, target.name, now());
    else say(NO_CURVE);
  };
  const correctMenu = () => {
    const box = document.getElementById("correct-more").getBoundingClientRect();
    openMenu({ x: box.left, y: box.top - 160 }, menuItems(all(), MORE), "More corrections");
  };

  return [
    { id: "not-speech", keys: "D", says: "The chosen passage is no speech", group: "Duck", run: onPassage("mark_speech", () => ({ speech: false })) },
    { id: "not-speech-range", keys: "Ctrl+Shift+D", says: "In to out is no speech", group: "Duck", run: inOut(false) },
    { id: "is-speech", keys: "Shift+D", says: "In to out is speech", group: "Duck", run: inOut(true) },
    { id: "no-dip", keys: "Z", says: "No dip under the chosen passage, or again", group: "Duck", run: onPassage("set_passage", (each) => ({ none: !each.none })) },
    { id: "split-passage", keys: "Shift+J", says: "Split the passage at the playhead", group: "Duck", run: () => doIt("split_passage", { at_n: now() }) },
    { id: "join-passage", keys: "Alt+J", says: "Join the chosen passage with the next", group: "Duck", run: onPassage("join_passages") },
    { id: "lift-passage", keys: "U", says: "Lift what was corrected of the chosen passage", group: "Duck", run: lift },
    { id: "correct-more", says: "More corrections …", group: "Duck", run: correctMenu },
    { id: "passage-exact", short: "Begin and end …", keys: "Shift+E", says: "When the chosen passage begins and ends …", group: "Duck", run: exactPassage },
    { id: "passage-start-back", keys: "{", says: "The passage begins a little earlier", group: "Duck", run: moveEdge("start", -1) },
    { id: "passage-start-on", keys: "}", says: "The passage begins a little later", group: "Duck", run: moveEdge("start", 1) },
    { id: "passage-stop-back", keys: "<", says: "The passage ends a little earlier", group: "Duck", run: moveEdge("stop", -1) },
    { id: "passage-stop-on", keys: ">", says: "The passage ends a little later", group: "Duck", run: moveEdge("stop", 1) },
    { id: "lift-passages", says: "Lift every correction of passages", group: "Duck", run: () => doIt("lift_passages", {}) },
    { id: "point-before", keys: "[", says: "Choose the point of the curve before", group: "Duck", run: () => points.step(-1, selection, now()) },
    { id: "point-after", keys: "]", says: "Choose the next point of the curve", group: "Duck", run: () => points.step(1, selection, now()) },
    { id: "point-add", keys: "Shift+P", says: "Add a point at the playhead", group: "Duck", run: addPoint },
    { id: "point-exact", keys: "E", says: "Exact values of the chosen point …", group: "Duck", run: () => points.exact() },
    { id: "point-freeze", short: "Freeze the curve", says: "Freeze the curve into plain points", group: "Duck", run: onCurve("freeze_curve") },
    { id: "point-clear", short: "Clear all automation", says: "Clear all automation of the music", group: "Duck", run: onCurve("clear_curve") },
    { id: "point-lift", short: "Lift all points set by hand", says: "Lift all points set by hand; follow the speech again", group: "Duck", run: onCurve("follow_speech") },
    { id: "duck-only", says: "Only the chosen music gives way", group: "Duck", run: () => doIt("duck_only", { clip_ids: chosen() }) },
    { id: "trigger", short: "Trigger …", keys: "Shift+V", says: "What of the chosen clips counts as sounding …", group: "Duck", run: () => triggerMenu({ pageDoc, selection, timeline }, reach) },
  ];
}
