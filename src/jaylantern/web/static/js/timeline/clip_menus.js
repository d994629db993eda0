// Menus about the chosen clips: their tag, and what of them counts as sounding.

import { NO_CLIP } from "../project/action_reach.js";
import { askFigures } from "../ground/ask_figures.js";
import { openMenu } from "../ground/menu.js";
import { say } from "../ground/said.js";
import { figure } from "../plain/units.js";
import { TAGS } from "../plain/vocabulary.js";

/** What the menu of the chosen clips holds: names of actions, null for a line. */
export const CLIP_MENU = [
  "split", "trim-start", "trim-stop", "clip-exact", null, "cut", "copy", "paste", "duplicate", null, "delete", "delete-close", "delete-close-all", null,
  "mute", "tag", "bystander", "trigger", "copy-sound", "link", "unlink", "pauses",
];

export const TRIGGERS = [["voice", "Voice: its speech"], ["level", "Level: whatever is loud enough"], ["clip", "Clip: its being there"], ["captions", "Captions: where they stand over it"]];

/** What a level must reach to count, as an item that asks for it. */
export const thresholdItem = (title, level_db, set) => ({
  label: `counts from ${figure(level_db)} dBFS …`,
  run: () => askFigures(title, [{ label: "Counts from", name: "Threshold in dBFS", unit: "dBFS", value: figure(level_db, 1) }], set, "A threshold is a number of dBFS, 0 or less."),
});

/** Turn a setting of the chosen clips and of what is linked to them on, or off where all have it. */
export function flipClips(name, { pageDoc, selection }, { chosen, doIt }) {
  const clips = pageDoc.together(selection.clips);
  return doIt("set_clips", { clip_ids: chosen(), [name]: !clips.every((clip) => clip[name]) });
}

/** The tags, as items for the chosen clips. */
export function tagItems({ pageDoc, selection }, reach) {
  const tag = (value) => () => reach.doIt("tag_clips", { clip_ids: reach.chosen(), tag: value });
  return [
    ...TAGS.map(({ word, letter }) => ({ label: word, tag: word, letter, keys: letter.toUpperCase(), run: tag(word) })),
    { label: "as its lane", letter: "l", keys: "L", run: tag(null) },
    null,
    { label: "bystander", letter: "b", keys: "B", on: reach.chosenClips().every((clip) => clip.bystander), run: () => flipClips("bystander", { pageDoc, selection }, reach) },
  ];
}

export function tagMenu({ pageDoc, selection, timeline }, reach) {
  if (!selection.clips.size) say(NO_CLIP);
  else openMenu(timeline.placeOf(selection.lead), tagItems({ pageDoc, selection }, reach), "Tag of the chosen clips");
}

export function triggerMenu({ pageDoc, selection, timeline }, { chosen, chosenClips, doIt }) {
  const clips = chosenClips();
  if (!clips.length) {
    say(NO_CLIP);
    return;
  }
  const set = (trigger) => () => doIt("set_clips", { clip_ids: chosen(), trigger });
  /** @type {any[]} */
  const items = TRIGGERS.map(([trigger, label]) => ({ label, on: clips.every((clip) => clip.trigger === trigger), run: set(trigger) }));
  items.push({ label: "as its lane", on: clips.every((clip) => !clip.trigger), run: set(null) });
  const { lane, clip } = pageDoc.clip(selection.lead);
  if (clips.every((each) => (each.trigger ?? pageDoc.clip(each.id).lane.trigger) === "level")) {
    const level = (level_db) => doIt("set_clips", { clip_ids: chosen(), level_db });
    items.push(null, thresholdItem("Threshold of the chosen clips", clip.level_db ?? lane.level_db, level));
    items.push({ label: "threshold as its lane", on: clips.every((each) => each.level_db === null), run: () => level(null) });
  }
  openMenu(timeline.placeOf(selection.lead), items, "Trigger of the chosen clips");
}
