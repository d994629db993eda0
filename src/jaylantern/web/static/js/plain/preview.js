// Pure: what the timeline looks like while something is being dragged, before the server has been asked.

/**
 * @typedef {{ids: Set<number>, by_n: number, lanes_by: number, kind: string, across: Set<number>}} Moved clips that are being moved: `ids` in time,
 *   `across` also over the lanes of a kind
 * @typedef {{moved?: Moved, changed?: Map<number, object>, marker?: {id: number, time_n: number}, range?: {in_n?: number, out_n?: number},
 *   at_n?: number | null, word?: string, curves?: Map<string, object>, passages?: object[]}} Preview
 */

/**
 * The lanes with their clips as the preview would have them: what is dragged already lies where it would.
 * @param {any[]} lanes @param {Preview | null} preview @returns {Array<{lane: any, clips: any[]}>}
 */
export function previewed(lanes, preview) {
  const { moved, changed } = preview ?? {};
  if (changed) return lanes.map((lane) => ({ lane, clips: lane.clips.map((clip) => ({ ...clip, ...changed.get(clip.id) })) }));
  if (!moved) return lanes.map((lane) => ({ lane, clips: lane.clips }));
  const alike = lanes.filter((lane) => lane.kind === moved.kind);
  const down = lanesDown(alike, moved);
  const clips = new Map(lanes.map((lane) => [lane.id, []]));
  for (const lane of lanes) {
    for (const clip of lane.clips) {
      const across = lane.kind === moved.kind && moved.across.has(clip.id);
      const home = across ? alike[alike.indexOf(lane) + down] : lane;
      clips.get(home.id).push(moved.ids.has(clip.id) ? { ...clip, start_n: clip.start_n + moved.by_n } : clip);
    }
  }
  return lanes.map((lane) => ({ lane, clips: clips.get(lane.id) }));
}

/** How many lanes down all of the moved clips can go together: no further than to the first and the last lane of their kind. */
function lanesDown(alike, moved) {
  const ranks = alike.flatMap((lane, rank) => (lane.clips.some((clip) => moved.across.has(clip.id)) ? [rank] : []));
  return ranks.length ? Math.max(-Math.min(...ranks), Math.min(moved.lanes_by, alike.length - 1 - Math.max(...ranks))) : 0;
}
