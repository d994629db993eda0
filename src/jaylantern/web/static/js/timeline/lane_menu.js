// The menu of a lane.

import { TRIGGERS, thresholdItem } from "./clip_menus.js";
import { saying } from "../ground/said.js";
import { TAGS } from "../plain/vocabulary.js";

/** Its items. */
export function laneItems({ pageDoc, selection, timeline }, lane) {
  const { lanes } = pageDoc.doc;
  const at = lanes.findIndex((each) => each.id === lane.id);
  const doIt = (kind, values) => () => saying(() => pageDoc.do(kind, { lane_id: lane.id, ...values }));
  const folded = timeline.laneView.folded(lane.id);
  const sound = lane.kind === "sound";
  return [
    { label: "Choose all its clips", off: !lane.clips.length, run: () => selection.choose(lane.clips.map((clip) => clip.id)) },
    { label: "Close its gaps", off: lane.clips.length < 2, run: doIt("close_gaps") },
    null,
    { label: "Add a sound lane below", run: () => saying(() => pageDoc.do("add_lane", { kind: "sound", below: sound ? lane.id : null })) },
    { label: "Add a picture lane", run: () => saying(() => pageDoc.do("add_lane", { kind: "picture" })) },
    { label: "Move up", off: at === 0, run: doIt("order_lane", { to: at - 1 }) },
    { label: "Move down", off: at === lanes.length - 1, run: doIt("order_lane", { to: at + 1 }) },
    { label: folded ? "Unfold" : "Fold", run: () => timeline.fold(lane.id, !folded) },
    { label: "Taller", run: () => timeline.growLane(lane.id, 24) },
    { label: "Lower", run: () => timeline.growLane(lane.id, -24) },
    { label: "Height as it fits", run: () => timeline.resizeLane(lane.id, null) },
    null,
    ...(sound
      ? [
          ...TAGS.map(({ word, letter }) => ({ label: `Tag lane and clips as ${word}`, tag: word, letter, run: doIt("tag_lane", { tag: word, clear: true }) })),
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
