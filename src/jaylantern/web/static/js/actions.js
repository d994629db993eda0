// Everything a person can do, as one table: it binds the keys, writes the list of them, and fills menus and buttons.

import { askFigures } from "./ask_figures.js";
import { copiedClips, copyClips } from "./clipboard.js";
import { framedCut, stepFrame } from "./frames.js";
import { KeyRun, newGesture } from "./gesture.js";
import { openMenu } from "./menu.js";
import { say, saying } from "./said.js";
import { RATE, clock, figure } from "./units.js";

export const TAGS = ["dialogue", "music", "effects", "ambience", "untagged"];
const EXACT_N = RATE / 1000; // what is typed shows milliseconds: what differs by less was left alone
const TRIGGERS = [["voice", "Voice: its speech"], ["level", "Level: whatever is loud enough"], ["clip", "Clip: its being there"]];

/** What a level must reach to count, as an item that asks for it. */
const thresholdItem = (title, level_db, set) => ({
  label: `counts from ${figure(level_db)} dBFS …`,
  run: () => askFigures(title, [{ label: "Counts from", name: "Threshold in dBFS", unit: "dBFS", value: figure(level_db, 1) }], set, "A threshold is a number of dBFS, 0 or less."),
});

/**
 * @typedef {{id: string, keys?: string, bound?: string[], says: string, short?: string, group: string, run: () => void}} Action `keys` as made, `bound` as they are now
 * @returns {Action[]}
 */
export function makeActions({ score, choice, player, timeline, transport, page }) {
  const chosen = () => [...choice.clips];
  const doIt = (kind, values) => saying(() => score.do(kind, values));
  const onClips = (kind, values = {}) => () => doIt(kind, { clip_ids: chosen(), ...values });
  const now = () => Math.round(player.now_n);
  const chosenClips = () => score.doc.lanes.flatMap((lane) => lane.clips.filter((clip) => choice.clips.has(clip.id)));

  const jumpFrame = (way) => () => goTo(stepFrame(now(), frame(), way));
  const cutAt = (clips, time_n) => framedCut(score.pictures(clips), time_n); // cuts keep to frames of the picture
  const split = (clip_ids, free = false) => () => {
    const clips = clip_ids ? score.together(choice.clips) : null;
    const at_n = free ? now() : cutAt(clips, now());
    return doIt("split_clips", clip_ids ? { clip_ids: chosen(), at_n } : { at_n });
  };
  const jump = (by_n) => {
    player.seek(player.now_n + by_n);
    timeline.reveal(player.now_n);
  };
  const goTo = (time_n) => {
    player.seek(time_n);
    timeline.reveal(time_n);
  };
  const goAmong = (times, way, nothing) => () => {
    const at = now();
    const all = [...new Set(times())].sort((a, b) => a - b);
    const found = way > 0 ? all.find((each) => each > at) : all.findLast((each) => each < at);
    if (found === undefined) say(nothing);
    else goTo(found);
  };
  const edges = () => [0, ...score.doc.lanes.flatMap((lane) => lane.clips.flatMap((clip) => [clip.start_n, clip.start_n + clip.length_n]))];
  const markers = () => score.doc.markers.map((marker) => marker.time_n);
  const presses = new KeyRun(); // presses of one key, one after another, are one step of the history
  const step = (kind, values) => doIt(kind, { clip_ids: chosen(), ...values, gesture: presses.of(`${kind} ${chosen().join()}`) });
  const nudge = (by_n) => () => step("move_clips", { by_n: Math.round(by_n()) });
  const nudgeFrame = (way) => () => {
    const [first] = score.pictures(score.together(choice.clips)); // a picture goes from frame to frame
    return step("move_clips", { by_n: first ? stepFrame(first.start_n, frame(), way) - first.start_n : Math.round(way * frame()) });
  };
  const frame = () => score.frame_n;
  const slip = (by_n) => () => step("slip_clips", { by_n: Math.round(by_n()) });
  const trim = (edge) => () => {
    const under = chosenClips().filter((clip) => clip.start_n < now() && now() < clip.start_n + clip.length_n);
    const [first] = under.length ? under : chosenClips();
    if (!first) say("No clip is chosen. Click one on the timeline first.");
    else doIt("trim_clips", { clip_ids: under.length ? under.map((clip) => clip.id) : [first.id], edge, to_n: cutAt(score.together(choice.clips), now()) });
  };
  const toLane = (lanes_by) => () => doIt("move_clips", { clip_ids: chosen(), by_n: 0, lanes_by, leader_id: choice.lead });
  const chooseAcross = (way) => () => {
    const { lanes } = score.doc;
    const at = lanes.findIndex((lane) => lane.clips.some((clip) => clip.id === choice.lead));
    const order = at < 0 ? (way > 0 ? lanes : lanes.toReversed()) : way > 0 ? lanes.slice(at + 1) : lanes.slice(0, at).reverse();
    for (const lane of order) {
      const clip = lane.clips.find((each) => each.start_n <= now() && now() < each.start_n + each.length_n) ?? lane.clips[0];
      if (clip) {
        choice.choose([clip.id]);
        timeline.focusClip(clip.id);
        return;
      }
    }
  };
  const chooseAlong = (way, too = false) => () => {
    const lane = score.doc.lanes.find((each) => each.clips.some((clip) => clip.id === choice.lead));
    if (!lane) return chooseAcross(1)();
    const at = lane.clips.findIndex((clip) => clip.id === choice.lead) + way;
    if (lane.clips[at]) {
      if (too) choice.add([lane.clips[at].id]);
      else choice.choose([lane.clips[at].id]);
      timeline.focusClip(lane.clips[at].id);
      timeline.reveal(lane.clips[at].start_n);
    }
  };
  const copy = () => {
    const count = copyClips(score.doc, new Set(score.together(choice.clips).map((clip) => clip.id)));
    say(count ? `Copied ${count === 1 ? "one clip" : `${count} clips`}.` : "No clip is chosen. Click one on the timeline first.");
    return count;
  };
  const paste = async () => {
    const before = new Set(score.doc.lanes.flatMap((lane) => lane.clips.map((clip) => clip.id)));
    await doIt("paste_clips", { copied: copiedClips(), at_n: now() });
    const fresh = score.doc.lanes.flatMap((lane) => lane.clips.map((clip) => clip.id)).filter((id) => !before.has(id));
    if (fresh.length) choice.choose(fresh);
  };
  const laneOfLead = () => score.doc.lanes.find((lane) => lane.clips.some((clip) => clip.id === choice.lead));
  const flip = (name) => () => {
    const clips = score.together(choice.clips);
    doIt("set_clips", { clip_ids: chosen(), [name]: !clips.every((clip) => clip[name]) });
  };
  const keyOf = (id) => table.find((row) => row.id === id).bound?.[0] ?? "no key";
  const { points } = timeline;
  const passage = () => score.doc.passages[choice.passage] ?? null;
  const onPassage = (deed, values = () => ({})) => () => {
    if (passage()) doIt(`shape/${deed}`, { index: choice.passage, ...values(passage()) });
    else say("There is no passage yet: tag a lane with speech as dialogue.");
  };
  const EDGE_N = RATE / 20;
  const moveEdge = (edge, way) => () => {
    const at = passage();
    if (!at) say("There is no passage yet: tag a lane with speech as dialogue.");
    else {
      const to_n = Math.max(0, Math.round(at[`${edge}_n`] + way * EDGE_N));
      doIt("shape/edge", { index: choice.passage, edge, to_n, gesture: presses.of(`edge ${edge} ${choice.passage}`) });
    }
  };
  const times = (start_n, stop_n) => [
    { label: "Begins", name: "Begins at", unit: "s", value: clock(start_n) },
    { label: "Ends", name: "Ends at", unit: "s", value: clock(stop_n) },
  ];
  const UNREAD = "A time is seconds, as in 12.5 s, or a place, as in 01:02.5 or 00:01:02:12. Nothing was changed.";
  /** Type when the chosen passage begins and ends. */
  const exactPassage = () => {
    const at = passage();
    if (!at) {
      say("There is no passage yet: tag a lane with speech as dialogue.");
      return;
    }
    const set = async (...seconds) => {
      const [start_n, stop_n] = seconds.map((each) => Math.max(0, Math.round(each * RATE)));
      const gesture = newGesture();
      const index = choice.passage;
      const ends = [["stop", stop_n, at.stop_n], ["start", start_n, at.start_n]].filter(([, to_n, was_n]) => Math.abs(to_n - was_n) > EXACT_N);
      for (const [edge, to_n] of ends) await doIt("shape/edge", { index, edge, to_n, gesture });
    };
    askFigures(`Passage ${choice.passage + 1}`, times(at.start_n, at.stop_n), set, UNREAD, score.frame_s);
  };
  /** Type when the clip chosen last begins and ends. */
  const exactClip = () => {
    const found = score.clip(choice.lead);
    if (!found) {
      say("No clip is chosen. Click one on the timeline first.");
      return;
    }
    const { clip } = found;
    const stop_n = clip.start_n + clip.length_n;
    const set = async (...seconds) => {
      const [to_n, end_n] = seconds.map((each) => Math.max(0, Math.round(each * RATE)));
      const gesture = newGesture();
      const moved = Math.abs(to_n - clip.start_n) > EXACT_N ? to_n - clip.start_n : 0;
      if (moved) await doIt("move_clips", { clip_ids: [clip.id], by_n: moved, gesture });
      if (Math.abs(end_n - stop_n) > EXACT_N) await doIt("trim_clips", { clip_ids: [clip.id], edge: "stop", to_n: end_n, gesture });
    };
    askFigures(clip.name, times(clip.start_n, stop_n), set, UNREAD, score.frame_s);
  };
  const inOut = (speech) => () => {
    const { in_n, out_n } = score.doc;
    if (in_n === null || out_n === null) say(`Set the in point (${keyOf("in")}) and the out point (${keyOf("out")}) around what is meant first.`);
    else doIt("shape/mark", { start_n: in_n, stop_n: out_n, speech, clip_ids: chosen() });
  };
  const onCurve = (deed) => () => {
    const target = points.target(choice);
    if (target) doIt(`shape/${deed}`, { lane_id: target.lane_id });
    else say("Nothing gives way yet, so there is no curve.");
  };
  const addPoint = () => {
    const target = points.target(choice);
    if (target) points.add(target.lane_id, target.name, now());
    else say("Nothing gives way yet, so there is no curve.");
  };
  const pointsOr = (by_n, by_db, otherwise) => () => points.nudge(Math.round(by_n()), by_db) || otherwise();
  const none = () => 0;
  const cutOut = () => {
    const { in_n, out_n } = score.doc;
    if (in_n === null || out_n === null) say(`Set the in point (${keyOf("in")}) and the out point (${keyOf("out")}) first.`);
    else doIt("cut_out", { start_n: cutAt(null, in_n), stop_n: cutAt(null, out_n) });
  };
  const stepBack = (way) => {
    if (score.doc[way] === null) say(`There is nothing to ${way}.`);
    else if (way === "redo" || page.mayUndo()) saying(() => score[way]());
  };
  const tag = (value) => () => doIt("tag_clips", { clip_ids: chosen(), tag: value });
  const tagMenu = () => {
    if (!choice.clips.size) {
      say("No clip is chosen. Click one on the timeline first.");
      return;
    }
    openMenu(timeline.placeOf(choice.lead), tagItems(), "Tag of the chosen clips");
  };
  const tagItems = () => [
    ...TAGS.map((each) => ({ label: each, tag: each, letter: each[0], keys: each[0].toUpperCase(), run: tag(each) })),
    { label: "as its lane", letter: "l", keys: "L", run: tag(null) },
    null,
    { label: "bystander", letter: "b", keys: "B", on: chosenClips().every((clip) => clip.bystander), run: flip("bystander") },
  ];

  const triggerMenu = () => {
    const clips = chosenClips();
    if (!clips.length) {
      say("No clip is chosen. Click one on the timeline first.");
      return;
    }
    const set = (trigger) => () => doIt("set_clips", { clip_ids: chosen(), trigger });
    const items = TRIGGERS.map(([trigger, label]) => ({ label, on: clips.every((clip) => clip.own_trigger === trigger), run: set(trigger) }));
    items.push({ label: "as its lane", on: clips.every((clip) => !clip.own_trigger), run: set(null) });
    const { lane, clip } = score.clip(choice.lead);
    if (clips.every((each) => (each.own_trigger ?? score.clip(each.id).lane.trigger) === "level")) {
      const level = (level_db) => doIt("set_clips", { clip_ids: chosen(), level_db });
      items.push(null, thresholdItem("Threshold of the chosen clips", clip.own_level_db ?? lane.level_db, level));
      items.push({ label: "threshold as its lane", on: clips.every((each) => each.own_level_db === null), run: () => level(null) });
    }
    openMenu(timeline.placeOf(choice.lead), items, "Trigger of the chosen clips");
  };

  const correctMenu = () => {
    const box = document.getElementById("correct-more").getBoundingClientRect();
    openMenu({ x: box.left, y: box.top - 160 }, menuItems(table, ["passage-exact", null, "is-speech", "not-speech-range", null, "trigger", null, "lift-passages"]), "More corrections");
  };

  /** @type {Action[]} */
  const table = [
    { id: "play", keys: "Space", says: "Play or pause", group: "Listen", run: () => transport.toggle() },
    { id: "both", keys: "B", says: "Both ways: ducked or plain", group: "Listen", run: () => transport.hear(player.variant === "ducked" ? "plain" : "ducked") },
    { id: "match", keys: "Shift+B", says: "Plain as loud as ducked, or as it is", group: "Listen", run: () => transport.match() },
    { id: "listen", keys: "V", says: "Listen to one part alone …", group: "Listen", run: () => transport.listenMenu() },
    { id: "shuttle-back", keys: "J", says: "Play back, faster with each press", group: "Listen", run: () => transport.shuttle(-1) },
    { id: "shuttle-stop", keys: "K", says: "Stop", group: "Listen", run: () => transport.shuttle(0) },
    { id: "shuttle-on", keys: "L", says: "Play on, faster with each press", group: "Listen", run: () => transport.shuttle(1) },
    { id: "loop", keys: "C", says: "Loop the chosen passage", group: "Listen", run: () => transport.toggleLoop() },
    { id: "loop-range", keys: "Alt+C", says: "Loop from in to out", group: "Listen", run: () => transport.loopRange() },
    { id: "solo", keys: "Shift+O", says: "Solo the lane of the chosen clip", group: "Listen", run: () => laneOfLead() && doIt("set_lane", { lane_id: laneOfLead().id, soloed: !laneOfLead().soloed }) },

    { id: "second-back", keys: "←", says: "One second back", group: "Go", run: () => jump(-RATE) },
    { id: "second-on", keys: "→", says: "One second on", group: "Go", run: () => jump(RATE) },
    { id: "frame-back", keys: "Shift+←", says: "One frame back", group: "Go", run: jumpFrame(-1) },
    { id: "frame-on", keys: "Shift+→", says: "One frame on", group: "Go", run: jumpFrame(1) },
    { id: "home", keys: "Home", says: "To the start", group: "Go", run: () => jump(-Infinity) },
    { id: "end", keys: "End", says: "To the end", group: "Go", run: () => jump(Infinity) },
    { id: "edit-before", keys: "PageUp", says: "To the edit before", group: "Go", run: goAmong(edges, -1, "There is no edit before this.") },
    { id: "edit-after", keys: "PageDown", says: "To the next edit", group: "Go", run: goAmong(edges, 1, "There is no edit after this.") },
    { id: "passage-before", keys: ",", says: "To the passage before", group: "Go", run: () => transport.step(-1) },
    { id: "passage-after", keys: ".", says: "To the next passage", group: "Go", run: () => transport.step(1) },
    { id: "marker-before", keys: "Ctrl+←", says: "To the marker before", group: "Go", run: goAmong(markers, -1, "There is no marker before this.") },
    { id: "marker-after", keys: "Ctrl+→", says: "To the next marker", group: "Go", run: goAmong(markers, 1, "There is no marker after this.") },
    { id: "go-in", keys: "Shift+I", says: "To the in point", group: "Go", run: () => (score.doc.in_n === null ? say("There is no in point.") : goTo(score.doc.in_n)) },

    { id: "choose-before", keys: "Alt+PageUp", says: "Choose the clip before on the lane", group: "Choose", run: chooseAlong(-1) },
    { id: "choose-after", keys: "Alt+PageDown", says: "Choose the next clip on the lane", group: "Choose", run: chooseAlong(1) },
    { id: "choose-before-too", keys: "Alt+Shift+PageUp", says: "Choose the clip before as well", group: "Choose", run: chooseAlong(-1, true) },
    { id: "choose-after-too", keys: "Alt+Shift+PageDown", says: "Choose the next clip as well", group: "Choose", run: chooseAlong(1, true) },
    { id: "choose-up", keys: "↑", says: "Choose on the lane above", group: "Choose", run: chooseAcross(-1) },
    { id: "choose-down", keys: "↓", says: "Choose on the lane below", group: "Choose", run: chooseAcross(1) },
    { id: "choose-lane", keys: "Shift+A", says: "Choose all of the lane", group: "Choose", run: () => laneOfLead() && choice.choose(laneOfLead().clips.map((clip) => clip.id)) },
    { id: "choose-all", keys: "Ctrl+A", says: "Choose all clips", group: "Choose", run: () => choice.choose(score.doc.lanes.flatMap((lane) => lane.clips.map((clip) => clip.id))) },
    { id: "choose-none", keys: "Escape", says: "Choose nothing", group: "Choose", run: () => points.clear() || choice.choose([]) },

    { id: "split", short: "Split at the playhead", keys: "S", says: "Split the chosen clips at the playhead", group: "Cut", run: split(true) },
    { id: "split-free", keys: "Alt+S", says: "Split them between frames, just at the playhead", group: "Cut", run: split(true, true) },
    { id: "split-all", keys: "Shift+S", says: "Split all lanes at the playhead", group: "Cut", run: split(false) },
    { id: "trim-start", short: "Begin at the playhead", keys: "Shift+Home", says: "Let the clip begin at the playhead", group: "Cut", run: trim("start") },
    { id: "trim-stop", short: "End at the playhead", keys: "Shift+End", says: "Let the clip end at the playhead", group: "Cut", run: trim("stop") },
    { id: "delete", keys: "Delete or Backspace", says: "Delete the clips, or the chosen points", group: "Cut", short: "Delete", run: () => points.remove() || onClips("delete_clips")() },
    { id: "delete-close", short: "Delete, close the gap", keys: "Alt+Delete or Alt+Backspace", says: "Delete and close the gap on the lane", group: "Cut", run: onClips("delete_clips", { close: "lane" }) },
    { id: "delete-close-all", short: "Delete, close up all lanes", keys: "Ctrl+Delete or Ctrl+Backspace", says: "Delete and close up all lanes", group: "Cut", run: onClips("delete_clips", { close: "all" }) },
    { id: "close-gaps", keys: "G", says: "Close the gaps of the chosen clip's lane", group: "Cut", run: () => (laneOfLead() ? doIt("close_gaps", { lane_id: laneOfLead().id }) : say("Choose a clip on the lane whose gaps are to be closed.")) },
    { id: "close-gaps-all", keys: "Shift+G", says: "Close gaps that go through all lanes", group: "Cut", run: () => doIt("close_gaps", {}) },
    { id: "cut-out", keys: "X", says: "Cut in to out out of all lanes", group: "Cut", run: cutOut },
    { id: "pauses", short: "Cut the pauses out …", keys: "P", says: "Cut the pauses out of the chosen talk …", group: "Cut", run: () => page.showPanel("pauses") },

    { id: "copy", keys: "Ctrl+C", says: "Copy", group: "Move", run: copy },
    { id: "cut", short: "Cut", keys: "Ctrl+X", says: "Cut: copy and delete", group: "Move", run: () => copy() && doIt("delete_clips", { clip_ids: chosen(), cut: true }) },
    { id: "paste", keys: "Ctrl+V", says: "Paste at the playhead", group: "Move", run: paste },
    { id: "duplicate", keys: "Ctrl+D", says: "Duplicate", group: "Move", run: onClips("duplicate_clips") },
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

    { id: "louder", keys: "Shift+↑", says: "Clip gain 1 dB up", group: "Sound and tag", run: () => step("raise_clips", { by_db: 1 }) },
    { id: "softer", keys: "Shift+↓", says: "Clip gain 1 dB down", group: "Sound and tag", run: () => step("raise_clips", { by_db: -1 }) },
    { id: "mute", short: "Mute or unmute", keys: "H", says: "Hush: mute the clips, or let them sound again", group: "Sound and tag", run: flip("muted") },
    { id: "fade-in", keys: "Ctrl+Shift+←", says: "Fade in up to the playhead", group: "Sound and tag", run: () => fadeTo("fade_in") },
    { id: "fade-out", keys: "Ctrl+Shift+→", says: "Fade out from the playhead", group: "Sound and tag", run: () => fadeTo("fade_out") },
    { id: "tag", short: "Tag …", keys: "T", says: "Tag the clips; then a letter", group: "Sound and tag", run: tagMenu },
    ...TAGS.map((each) => ({ id: `tag-${each}`, says: `Tag the clips as ${each}`, group: "Sound and tag", run: tag(each) })),
    { id: "tag-none", says: "Let the clips take the tag of their lane", group: "Sound and tag", run: tag(null) },
    { id: "bystander", short: "Bystander, or back", keys: "Shift+T", says: "Let the clips stand outside the pecking order", group: "Sound and tag", run: flip("bystander") },
    { id: "copy-sound", short: "Copy sound to the others", keys: "Shift+C", says: "Give the sound settings of the clip chosen last to the others", group: "Sound and tag", run: () => doIt("copy_sound", { from_id: choice.lead, clip_ids: chosen() }) },

    { id: "not-speech", keys: "D", says: "The chosen passage is no speech", group: "Duck", run: onPassage("mark", () => ({ speech: false })) },
    { id: "not-speech-range", keys: "Ctrl+Shift+D", says: "In to out is no speech", group: "Duck", run: inOut(false) },
    { id: "is-speech", keys: "Shift+D", says: "In to out is speech", group: "Duck", run: inOut(true) },
    { id: "no-dip", keys: "Z", says: "No dip under the chosen passage, or again", group: "Duck", run: onPassage("own", (each) => ({ none: !each.none })) },
    { id: "split-passage", keys: "Shift+J", says: "Split the passage at the playhead", group: "Duck", run: () => doIt("shape/split", { at_n: now() }) },
    { id: "join-passage", keys: "Alt+J", says: "Join the chosen passage with the next", group: "Duck", run: onPassage("join") },
    { id: "lift-passage", keys: "U", says: "Lift what was corrected of the chosen passage", group: "Duck", run: onPassage("lift") },
    { id: "correct-more", says: "More corrections …", group: "Duck", run: correctMenu },
    { id: "passage-exact", short: "Begin and end …", keys: "Shift+E", says: "When the chosen passage begins and ends …", group: "Duck", run: exactPassage },
    { id: "passage-start-back", keys: "{", says: "The passage begins a little earlier", group: "Duck", run: moveEdge("start", -1) },
    { id: "passage-start-on", keys: "}", says: "The passage begins a little later", group: "Duck", run: moveEdge("start", 1) },
    { id: "passage-stop-back", keys: "<", says: "The passage ends a little earlier", group: "Duck", run: moveEdge("stop", -1) },
    { id: "passage-stop-on", keys: ">", says: "The passage ends a little later", group: "Duck", run: moveEdge("stop", 1) },
    { id: "lift-passages", says: "Lift every correction of passages", group: "Duck", run: () => doIt("lift_passages", {}) },
    { id: "point-before", keys: "[", says: "Choose the point of the curve before", group: "Duck", run: () => points.step(-1, choice, now()) },
    { id: "point-after", keys: "]", says: "Choose the next point of the curve", group: "Duck", run: () => points.step(1, choice, now()) },
    { id: "point-add", keys: "Shift+P", says: "Add a point at the playhead", group: "Duck", run: addPoint },
    { id: "point-exact", keys: "E", says: "Exact values of the chosen point …", group: "Duck", run: () => points.exact() },
    { id: "point-freeze", short: "Freeze the curve", says: "Freeze the curve into plain points", group: "Duck", run: onCurve("freeze") },
    { id: "point-clear", short: "Clear all automation", says: "Clear all automation of the music", group: "Duck", run: onCurve("clear") },
    { id: "point-lift", short: "Lift all points set by hand", says: "Lift all points set by hand; follow the speech again", group: "Duck", run: onCurve("follow") },
    { id: "duck-only", says: "Only the chosen music gives way", group: "Duck", run: () => doIt("duck_only", { clip_ids: chosen() }) },
    { id: "trigger", short: "Trigger …", keys: "Shift+V", says: "What of the chosen clips counts as sounding …", group: "Duck", run: triggerMenu },

    { id: "marker", keys: "M", says: "Marker at the playhead", group: "Mark", run: () => doIt("add_marker", { at_n: now() }) },
    { id: "in", keys: "I", says: "In point at the playhead", group: "Mark", run: () => doIt("set_in", { at_n: now() }) },
    { id: "out", keys: "O", says: "Out point at the playhead", group: "Mark", run: () => doIt("set_out", { at_n: now() }) },
    { id: "clear-range", keys: "Shift+X", says: "Clear in and out", group: "Mark", run: () => doIt("clear_range", {}) },

    { id: "add-lane", keys: "Shift+N", says: "Add a sound lane", group: "Lanes", run: () => doIt("add_lane", { kind: "sound", below: laneOfLead()?.id ?? null }) },
    { id: "record", keys: "R", says: "Record a voice take …", group: "Lanes", run: () => page.showPanel("take") },
    { id: "lane-menu", keys: "Shift+M", says: "Menu of the chosen clip's lane", group: "Lanes", run: () => laneOfLead() && timeline.openLaneMenu(laneOfLead().id) },

    { id: "zoom-in", keys: "+ or =", says: "Look closer", group: "View", run: () => timeline.zoom(1 / 1.6, player.now_n) },
    { id: "zoom-out", keys: "−", says: "Show more", group: "View", run: () => timeline.zoom(1.6, player.now_n) },
    { id: "zoom-fit", keys: "F", says: "Show all", group: "View", run: () => timeline.fit() },
    { id: "zoom-chosen", keys: "Shift+F", says: "Show what is chosen", group: "View", run: () => timeline.fitTo(chosenClips()) },
    { id: "step-1", keys: "1", says: "Lay out", group: "View", run: () => page.step("layout") },
    { id: "step-2", keys: "2", says: "Tag", group: "View", run: () => page.step("tag") },
    { id: "step-3", keys: "3", says: "Duck", group: "View", run: () => page.step("duck") },
    { id: "step-4", keys: "4", says: "Level", group: "View", run: () => page.step("level") },
    { id: "step-5", keys: "5", says: "Hand off", group: "View", run: () => page.step("handoff") },
    { id: "tray-fold", keys: "Alt+T", says: "Fold the tray away, or back", group: "View", run: () => page.foldTray() },
    { id: "tray-double", keys: "Alt+Shift+T", says: "Tray twice as high, or as usual", group: "View", run: () => page.doubleTray() },
    { id: "keys", keys: "?", says: "This list", group: "View", run: () => page.showKeys() },

    { id: "undo", keys: "Ctrl+Z", says: "Undo", group: "History", run: () => stepBack("undo") },
    { id: "redo", keys: "Ctrl+Shift+Z or Ctrl+Y", says: "Do again what was undone", group: "History", run: () => stepBack("redo") },
    { id: "history", keys: "Y", says: "History", group: "History", run: () => page.showHistory() },
  ];

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

  return Object.assign(table, { tagItems });
}

/** The actions of these names as items of a menu. */
export function menuItems(table, names) {
  return names.map((name) => {
    if (name === null) return null;
    const { says, short, bound, run } = table.find((each) => each.id === name);
    return { label: short ?? says, keys: bound?.[0], run };
  });
}

export const CLIP_MENU = [
  "split", "trim-start", "trim-stop", "clip-exact", null, "cut", "copy", "paste", "duplicate", null, "delete", "delete-close", "delete-close-all", null,
  "mute", "tag", "bystander", "trigger", "copy-sound", "link", "unlink", "pauses",
];

/** The menu of a lane. */
export function laneItems({ score, choice, timeline }, lane) {
  const { lanes } = score.doc;
  const at = lanes.findIndex((each) => each.id === lane.id);
  const doIt = (kind, values) => () => saying(() => score.do(kind, { lane_id: lane.id, ...values }));
  const folded = timeline.laneView.folded(lane.id);
  const sound = lane.kind === "sound";
  return [
    { label: "Choose all its clips", off: !lane.clips.length, run: () => choice.choose(lane.clips.map((clip) => clip.id)) },
    { label: "Close its gaps", off: lane.clips.length < 2, run: doIt("close_gaps") },
    null,
    { label: "Add a sound lane below", run: () => saying(() => score.do("add_lane", { kind: "sound", below: sound ? lane.id : null })) },
    { label: "Add a picture lane", run: () => saying(() => score.do("add_lane", { kind: "picture" })) },
    { label: "Move up", off: at === 0, run: doIt("order_lane", { to: at - 1 }) },
    { label: "Move down", off: at === lanes.length - 1, run: doIt("order_lane", { to: at + 1 }) },
    { label: folded ? "Unfold" : "Fold", run: () => timeline.fold(lane.id, !folded) },
    { label: "Taller", run: () => timeline.growLane(lane.id, 24) },
    { label: "Lower", run: () => timeline.growLane(lane.id, -24) },
    { label: "Height as it fits", run: () => timeline.resizeLane(lane.id, null) },
    null,
    ...(sound
      ? [
          ...TAGS.map((tag) => ({ label: `Tag lane and clips as ${tag}`, tag, letter: tag[0], run: doIt("tag_lane", { tag, clear: true }) })),
          { label: "Bystander", on: lane.bystander, run: doIt("set_lane", { bystander: !lane.bystander }) },
          null,
          ...TRIGGERS.map(([trigger, label]) => ({ label, on: lane.trigger === trigger, run: doIt("set_lane", { trigger }) })),
          ...(lane.trigger === "level"
            ? [thresholdItem(`Threshold of ${lane.name}`, lane.level_db, (level_db) => doIt("set_lane", { level_db })())]
            : []),
          null,
        ]
      : []),
    { label: `Remove lane${lane.clips.length ? ` and its ${lane.clips.length === 1 ? "clip" : `${lane.clips.length} clips`}` : ""}`, run: doIt("remove_lane") },
  ];
}

/** What a marker's flag says. */
export const markerWords = (marker) => `${marker.name} · ${clock(marker.time_n, 2)}`;
