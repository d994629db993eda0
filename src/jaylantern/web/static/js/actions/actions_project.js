// Actions on the project as a whole: marks, lanes, what is in view, the history.

import { say, saying } from "../ground/said.js";

/** @returns {import("./actions.js").Action[]} */
export function projectActions({ pageDoc, player, timeline, ask, stepsBack }, reach) {
  const { chosenClips, doIt, laneOfLead, now } = reach;
  const stepBack = (way) => {
    if (pageDoc.doc[way] === null) say(`There is nothing to ${way}.`);
    else if (way === "redo" || stepsBack.mayUndo()) saying(() => pageDoc[way]());
  };

  return [
    { id: "marker", keys: "M", says: "Marker at the playhead", group: "Mark", run: () => doIt("add_marker", { at_n: now() }) },
    { id: "in", keys: "I", says: "In point at the playhead", group: "Mark", run: () => doIt("set_in", { at_n: now() }) },
    { id: "out", keys: "O", says: "Out point at the playhead", group: "Mark", run: () => doIt("set_out", { at_n: now() }) },
    { id: "clear-range", keys: "Shift+X", says: "Clear in and out", group: "Mark", run: () => doIt("clear_range", {}) },

    { id: "add-lane", keys: "Shift+N", says: "Add a sound lane", group: "Lanes", run: () => doIt("add_lane", { kind: "sound", below: laneOfLead()?.id ?? null }) },
    { id: "record", keys: "R", says: "Record a voice take …", group: "Lanes", run: () => ask("panel", "take") },
    { id: "lane-menu", keys: "Shift+M", says: "Menu of the chosen clip's lane", group: "Lanes", run: () => laneOfLead() && timeline.openMenu("lane", null, { lane_id: laneOfLead().id }) },

    { id: "zoom-in", keys: "+ or =", says: "Look closer", group: "View", run: () => timeline.zoom(1 / 1.6, player.now_n) },
    { id: "zoom-out", keys: "−", says: "Show more", group: "View", run: () => timeline.zoom(1.6, player.now_n) },
    { id: "zoom-fit", keys: "F", says: "Show all", group: "View", run: () => timeline.fit() },
    { id: "zoom-chosen", keys: "Shift+F", says: "Show what is chosen", group: "View", run: () => timeline.fitTo(chosenClips()) },
    { id: "step-1", keys: "1", says: "Lay out", group: "View", run: () => ask("step", "layout") },
    { id: "step-2", keys: "2", says: "Tag", group: "View", run: () => ask("step", "tag") },
    { id: "step-3", keys: "3", says: "Duck", group: "View", run: () => ask("step", "duck") },
    { id: "step-4", keys: "4", says: "Level", group: "View", run: () => ask("step", "level") },
    { id: "step-5", keys: "5", says: "Tailor", group: "View", run: () => ask("step", "tailor") },
    { id: "step-6", keys: "6", says: "Hand off", group: "View", run: () => ask("step", "handoff") },
    { id: "part-next", keys: "F6", says: "To the next part of the page: head, tray, transport, film", group: "View", run: () => ask("part", 1) },
    { id: "part-before", keys: "Shift+F6", says: "To the part before", group: "View", run: () => ask("part", -1) },
    { id: "tray-fold", keys: "Alt+T", says: "Fold the tray away, or back", group: "View", run: () => ask("fold-tray") },
    { id: "tray-double", keys: "Alt+Shift+T", says: "Tray twice as high, or as usual", group: "View", run: () => ask("double-tray") },
    { id: "keys", keys: "?", says: "This list", group: "View", run: () => ask("keys") },

    { id: "undo", keys: "Ctrl+Z", says: "Undo", group: "History", run: () => stepBack("undo") },
    { id: "redo", keys: "Ctrl+Shift+Z or Ctrl+Y", says: "Do again what was undone", group: "History", run: () => stepBack("redo") },
    { id: "history", keys: "Y", says: "History", group: "History", run: () => ask("history") },
  ];
}
