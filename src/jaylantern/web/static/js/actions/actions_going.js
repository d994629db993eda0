// Actions that change nothing: listening, going about in time, choosing.

import { allClips, clipIds } from "../plain/clips.js";
import { edgesOf } from "../plain/drags.js";
import { stepOnScreen } from "../plain/frames.js";
import { say } from "../ground/said.js";
import { RATE } from "../plain/units.js";

/** @returns {import("./actions.js").Action[]} */
export function goingActions({ pageDoc, selection, player, timeline, transport, drafts }, reach) {
  const { doIt, frame, goTo, laneOfLead, now } = reach;
  const { points } = timeline;
  const fps = (media_id) => pageDoc.doc.media[media_id]?.fps ?? null;
  const jumpFrame = (way) => () => goTo(stepOnScreen(pageDoc.doc.lanes, { time_n: now(), way, frame_n: frame(), fps }));
  const jump = (by_n) => goTo(player.now_n + by_n);
  const goAmong = (times, way, nothing) => () => {
    const at = now();
    const all = [...new Set(times())].sort((a, b) => a - b);
    const found = way > 0 ? all.find((each) => each > at) : all.findLast((each) => each < at);
    if (found === undefined) say(nothing);
    else goTo(found);
  };
  const edges = () => [0, ...edgesOf(allClips(pageDoc.doc))];
  const markers = () => pageDoc.doc.markers.map((marker) => marker.time_n);
  const chooseAcross = (way) => () => {
    const { lanes } = pageDoc.doc;
    const at = lanes.findIndex((lane) => lane.clips.some((clip) => clip.id === selection.lead));
    const order = at < 0 ? (way > 0 ? lanes : lanes.toReversed()) : way > 0 ? lanes.slice(at + 1) : lanes.slice(0, at).reverse();
    for (const lane of order) {
      const clip = lane.clips.find((each) => each.start_n <= now() && now() < each.start_n + each.length_n) ?? lane.clips[0];
      if (clip) {
        selection.choose([clip.id]);
        timeline.focusClip(clip.id);
        return;
      }
    }
  };
  const chooseAlong = (way, too = false) => () => {
    const lane = pageDoc.doc.lanes.find((each) => each.clips.some((clip) => clip.id === selection.lead));
    if (!lane) return chooseAcross(1)();
    const at = lane.clips.findIndex((clip) => clip.id === selection.lead) + way;
    if (lane.clips[at]) {
      if (too) selection.add([lane.clips[at].id]);
      else selection.choose([lane.clips[at].id]);
      timeline.focusClip(lane.clips[at].id);
      timeline.reveal(lane.clips[at].start_n);
    }
  };

  return [
    { id: "play", keys: "Space", says: "Play or pause", group: "Listen", run: () => transport.toggle() },
    { id: "both", keys: "B", says: "Both ways: ducked or plain", group: "Listen", run: () => transport.hear(player.variant === "ducked" ? "plain" : "ducked") },
    { id: "match", keys: "Shift+B", says: "Plain as loud as ducked, or as it is", group: "Listen", run: () => transport.match() },
    { id: "draft", keys: "A", says: "The other draft, A or B", group: "Listen", run: () => drafts.turn() },
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
    { id: "caption-before", keys: "Shift+W", says: "To the caption before", group: "Go", run: goAmong(() => timeline.captions.begins, -1, "There is no caption before this.") },
    { id: "caption-after", keys: "W", says: "To the next caption", group: "Go", run: goAmong(() => timeline.captions.begins, 1, "There is no caption after this.") },
    { id: "go-in", keys: "Shift+I", says: "To the in point", group: "Go", run: () => (pageDoc.doc.in_n === null ? say("There is no in point.") : goTo(pageDoc.doc.in_n)) },

    { id: "choose-before", keys: "Alt+PageUp", says: "Choose the clip before on the lane", group: "Choose", run: chooseAlong(-1) },
    { id: "choose-after", keys: "Alt+PageDown", says: "Choose the next clip on the lane", group: "Choose", run: chooseAlong(1) },
    { id: "choose-before-too", keys: "Alt+Shift+PageUp", says: "Choose the clip before as well", group: "Choose", run: chooseAlong(-1, true) },
    { id: "choose-after-too", keys: "Alt+Shift+PageDown", says: "Choose the next clip as well", group: "Choose", run: chooseAlong(1, true) },
    { id: "choose-up", keys: "↑", says: "Choose on the lane above", group: "Choose", run: chooseAcross(-1) },
    { id: "choose-down", keys: "↓", says: "Choose on the lane below", group: "Choose", run: chooseAcross(1) },
    { id: "choose-lane", keys: "Shift+A", says: "Choose all of the lane", group: "Choose", run: () => laneOfLead() && selection.choose(laneOfLead().clips.map((clip) => clip.id)) },
    { id: "choose-all", keys: "Ctrl+A", says: "Choose all clips", group: "Choose", run: () => selection.choose(clipIds(pageDoc.doc)) },
    { id: "choose-none", keys: "Escape", says: "Choose nothing", group: "Choose", run: () => points.clear() || timeline.stretch.clear() || selection.choose([]) },
  ];
}
