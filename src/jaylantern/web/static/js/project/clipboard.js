// The clipboard for clips: what was copied is held as it was, so that it can be pasted after the original has gone, in
// another window and into another project.

const KEY = "jay-lantern: clipboard";

/** @returns {number} how many clips were copied */
export function copyClips(doc, ids) {
  const copied = doc.lanes.flatMap((lane) =>
    lane.clips
      .filter((clip) => ids.has(clip.id))
      .map((clip) => ({ ...clip, lane_id: lane.id, lane_name: lane.name, kind: lane.kind, lane_tag: lane.tag })),
  );
  if (copied.length) localStorage.setItem(KEY, JSON.stringify(copied));
  return copied.length;
}

/** What lies on the clipboard, maybe nothing. */
export function copiedClips() {
  try {
    return JSON.parse(localStorage.getItem(KEY)) ?? [];
  } catch {
    return [];
  }
}
