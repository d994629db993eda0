// Actions on clips: cutting, moving, their sound and their tag.

import { clipIds } from "../plain/clips.js";
import { NO_CLIP } from "../project/action_reach.js";
import { flipClips, tagMenu } from "../timeline/clip_menus.js";
import { copiedClips, copyClips } from "../project/clipboard.js";
import { stepFrame } from "../plain/frames.js";
import { say } from "../ground/said.js";
import { RATE } from "../plain/units.js";
import { TAGS } from "../plain/vocabulary.js";

/** @returns {import("./actions.js").Action[]} */
export function clipActions({ pageDoc, selection, timeline, ask }, reach, { exactClip, keyOf }) {
  const { chosen, chosenClips, cutAt, doIt, frame, laneOfLead, now, onClips, step } = reach;
  const { points } = timeline;
  const split = (clip_ids, free = false) => () => {
    const clips = clip_ids ? pageDoc.together(selection.clips) : null;
    const at_n = free ? now() : cutAt(clips, now());
    return doIt("split_clips", clip_ids ? { clip_ids: chosen(), at_n } : { at_n });
  };
  const nudge = (by_n) => () => step("move_clips", { by_n: Math.round(by_n()) });
  const nudgeFrame = (way) => () => {
    const [first] = pageDoc.pictures(pageDoc.together(selection.clips)); // a picture goes from frame to frame
    return step("move_clips", { by_n: first ? stepFrame(first.start_n, first.fps ? RATE / first.fps : frame(), way) - first.start_n : Math.round(way * frame()) });
  };
  const slip = (by_n) => () => step("slip_clips", { by_n: Math.round(by_n()) });
  const trim = (edge) => () => {
    const under = chosenClips().filter((clip) => clip.start_n < now() && now() < clip.start_n + clip.length_n);
    const [first] = under.length ? under : chosenClips();
    if (!first) say(NO_CLIP);
    else doIt("trim_clips", { clip_ids: under.length ? under.map((clip) => clip.id) : [first.id], edge, to_n: cutAt(pageDoc.together(selection.clips), now()) });
  };
  const toLane = (lanes_by) => () => doIt("move_clips", { clip_ids: chosen(), by_n: 0, lanes_by, leader_id: selection.lead });
  const copy = () => {
    const count = copyClips(pageDoc.doc, new Set(pageDoc.together(selection.clips).map((clip) => clip.id)));
    say(count ? `Copied ${count === 1 ? "one clip" : `${count} clips`}.` : NO_CLIP);
    return count;
  };
  /** What is new after it is chosen. */
  const makes = async (name, values) => {
    const before = new Set(clipIds(pageDoc.doc));
    await doIt(name, values);
    const fresh = clipIds(pageDoc.doc).filter((id) => !before.has(id));
    if (!fresh.length) return;
    selection.choose(fresh);
    timeline.focusClip(selection.lead);
  };
  const paste = () => makes("paste_clips", { copied: copiedClips(), at_n: now() });
  const pointsOr = (by_n, by_db, otherwise) => () => points.nudge(Math.round(by_n()), by_db) || timeline.stretch.nudge(by_db) || otherwise();
  const none = () => 0;
  const cutOut = () => {
    const { in_n, out_n } = pageDoc.doc;
    if (in_n === null || out_n === null) say(`Set the in point (${keyOf("in")}) and the out point (${keyOf("out")}) first.`);
    else doIt("cut_out", { start_n: cutAt(null, in_n), stop_n: cutAt(null, out_n) });
  };
  const tag = (value) => () => doIt("tag_clips", { clip_ids: chosen(), tag: value });
  const flip = (name) => () => flipClips(name, { pageDoc, selection }, reach);
  function fadeTo(end) {
    const clips = chosenClips().filter((clip) => clip.start_n < now() && now() < clip.start_n + clip.length_n);
    const [first] = clips;
    if (!first) {
      say("Put the playhead inside the chosen clip: the fade reaches to it.");
      return;
    }
    const length_n = end === "fade_in" ? now() - first.start_n : first.start_n + first.length_n - now();
    doIt("fade_clips", { clip_ids: clips.map((clip) => clip.id), end, length_n });
  }

  const remove = () => {
    if (points.remove()) return;
    if (selection.hand === "line") say("No point of the line is chosen. Take the curves of ducking in hand again to delete clips.");
    else onClips("delete_clips")();
  };

  return [
    { id: "split", short: "Split at the playhead", keys: "S", says: "Split the chosen clips at the playhead", group: "Cut", run: split(true) },
    { id: "split-free", keys: "Alt+S", says: "Split them between frames, just at the playhead", group: "Cut", run: split(true, true) },
    { id: "split-all", keys: "Shift+S", says: "Split all lanes at the playhead", group: "Cut", run: split(false) },
    { id: "trim-start", short: "Begin at the playhead", keys: "Shift+Home", says: "Let the clip begin at the playhead", group: "Cut", run: trim("start") },
    { id: "trim-stop", short: "End at the playhead", keys: "Shift+End", says: "Let the clip end at the playhead", group: "Cut", run: trim("stop") },
    { id: "delete", keys: "Delete or Backspace", says: "Delete the clips, or the chosen points", group: "Cut", short: "Delete", run: remove },
    { id: "delete-close", short: "Delete, close the gap", keys: "Alt+Delete or Alt+Backspace", says: "Delete and close the gap on the lane", group: "Cut", run: onClips("delete_clips", { close: "lane" }) },
    { id: "delete-close-all", short: "Delete, close up all lanes", keys: "Ctrl+Delete or Ctrl+Backspace", says: "Delete and close up all lanes", group: "Cut", run: onClips("delete_clips", { close: "all" }) },
    { id: "close-gaps", keys: "G", says: "Close the gaps of the chosen clip's lane", group: "Cut", run: () => (laneOfLead() ? doIt("close_gaps", { lane_id: laneOfLead().id }) : say("Choose a clip on the lane whose gaps are to be closed.")) },
    { id: "close-gaps-all", keys: "Shift+G", says: "Close gaps that go through all lanes", group: "Cut", run: () => doIt("close_gaps", {}) },
    { id: "cut-out", keys: "X", says: "Cut in to out out of all lanes", group: "Cut", run: cutOut },
    { id: "pauses", short: "Cut the pauses out …", keys: "P", says: "Cut the pauses out of the chosen talk …", group: "Cut", run: () => ask("panel", "pauses") },

    { id: "copy", keys: "Ctrl+C", says: "Copy", group: "Move", run: copy },
    { id: "cut", short: "Cut", keys: "Ctrl+X", says: "Cut: copy and delete", group: "Move", run: () => copy() && doIt("delete_clips", { clip_ids: chosen(), cut: true }) },
    { id: "paste", keys: "Ctrl+V", says: "Paste at the playhead", group: "Move", run: paste },
    { id: "duplicate", keys: "Ctrl+D", says: "Duplicate", group: "Move", run: () => makes("duplicate_clips", { clip_ids: chosen() }) },
    { id: "nudge-back", keys: "Alt+←", says: "Move the clips a frame earlier", group: "Move", run: pointsOr(() => -frame(), 0, nudgeFrame(-1)) },
    { id: "nudge-on", keys: "Alt+→", says: "Move the clips a frame later", group: "Move", run: pointsOr(() => frame(), 0, nudgeFrame(1)) },
    { id: "nudge-second-back", keys: "Alt+Shift+←", says: "Move the clips a second earlier", group: "Move", run: pointsOr(() => -RATE, 0, nudge(() => -RATE)) },
    { id: "nudge-second-on", keys: "Alt+Shift+→", says: "Move the clips a second later", group: "Move", run: pointsOr(() => RATE, 0, nudge(() => RATE)) },
    { id: "lane-up", keys: "Alt+↑", says: "Move the clips to the lane above", group: "Move", run: pointsOr(none, 0.5, toLane(-1)) },
    { id: "lane-down", keys: "Alt+↓", says: "Move the clips to the lane below", group: "Move", run: pointsOr(none, -0.5, toLane(1)) },
    { id: "slip-back", keys: "Ctrl+,", says: "Slip: show the media a frame earlier", group: "Move", run: slip(() => -frame()) },
    { id: "slip-on", keys: "Ctrl+.", says: "Slip: show the media a frame later", group: "Move", run: slip(() => frame()) },
    { id: "slip-second-back", keys: "Alt+,", says: "Slip by a second earlier", group: "Move", run: slip(() => -RATE) },
    { id: "slip-second-on", keys: "Alt+.", says: "Slip by a second later", group: "Move", run: slip(() => RATE) },
    { id: "snap", keys: "N", says: "Snapping on or off; Alt while dragging suspends it", group: "Move", run: () => timeline.setSnapping(!timeline.snapping) },
    { id: "clip-exact", short: "Begin and end …", keys: "Alt+E", says: "When the clip begins and ends …", group: "Move", run: exactClip },
    { id: "link", short: "Link picture and sound", keys: "Alt+K", says: "Link the chosen picture and sound", group: "Move", run: onClips("link_clips") },
    { id: "unlink", keys: "Shift+K", says: "Unlink picture and sound", group: "Move", run: onClips("unlink_clips") },

    { id: "louder", keys: "Shift+↑", says: "Clip gain, or the chosen stretch, 1 dB up", group: "Sound and tag", run: () => timeline.stretch.nudge(1) || step("raise_clips", { by_db: 1 }) },
    { id: "softer", keys: "Shift+↓", says: "Clip gain, or the chosen stretch, 1 dB down", group: "Sound and tag", run: () => timeline.stretch.nudge(-1) || step("raise_clips", { by_db: -1 }) },
    { id: "mute", short: "Mute or unmute", keys: "H", says: "Mute the clips, or let them sound again", group: "Sound and tag", run: flip("muted") },
    { id: "fade-in", keys: "Ctrl+Shift+←", says: "Fade in up to the playhead", group: "Sound and tag", run: () => fadeTo("fade_in") },
    { id: "fade-out", keys: "Ctrl+Shift+→", says: "Fade out from the playhead", group: "Sound and tag", run: () => fadeTo("fade_out") },
    { id: "tag", short: "Tag …", keys: "T", says: "Tag the clips; then a letter", group: "Sound and tag", run: () => tagMenu({ pageDoc, selection, timeline }, reach) },
    ...TAGS.map(({ word }) => ({ id: `tag-${word}`, says: `Tag the clips as ${word}`, group: "Sound and tag", run: tag(word) })),
    { id: "tag-none", says: "Let the clips take the tag of their lane", group: "Sound and tag", run: tag(null) },
    { id: "bystander", short: "Bystander, or back", keys: "Shift+T", says: "Let the clips stand outside the pecking order", group: "Sound and tag", run: flip("bystander") },
    { id: "copy-sound", short: "Copy sound to the others", keys: "Shift+C", says: "Give the sound settings of the clip chosen last to the others", group: "Sound and tag", run: () => doIt("copy_sound", { from_id: selection.lead, clip_ids: chosen() }) },
  ];
}
