// Everything a person can do, as one table: it binds the keys, writes the list of them, and fills menus and buttons.

import { makeReach } from "../project/action_reach.js";
import { clipActions } from "./actions_clips.js";
import { duckActions } from "./actions_ducking.js";
import { goingActions } from "./actions_going.js";
import { lineActions } from "./actions_line.js";
import { projectActions } from "./actions_project.js";
import { exactTimes } from "./exact_times.js";

/**
 * @typedef {{id: string, keys?: string, bound?: string[], says: string, short?: string, group: string, run: () => void}} Action `keys` as made, `bound` as they are now
 * @param {{pageDoc: any, selection: any, stepsBack: any, player: any, timeline: any, transport: any, drafts: any, ask: (what: string, of?: any) => void}} parts
 *   `ask`: has the page show something: "step", "panel", "part", "fold-tray", "double-tray", "keys", "history"
 * @returns {Action[]}
 */
export function makeActions(parts) {
  const reach = makeReach(parts);
  const { exactPassage, exactClip } = exactTimes(parts, reach);
  const all = () => table;
  const keyOf = (id) => table.find((row) => row.id === id).bound?.[0] ?? "no key";
  /** @type {Action[]} */
  const table = [
    ...goingActions(parts, reach),
    ...clipActions(parts, reach, { exactClip, keyOf }),
    ...duckActions(parts, reach, { exactPassage, keyOf, all }),
    ...lineActions(parts, reach),
    ...projectActions(parts, reach),
  ];
  return table;
}
