// Pure: where something that is dragged clicks into place. Times are samples.

/** Every time that is worth snapping to, ascending. @param {Set<number>} moving clips that move and don't count */
export function places(doc, { moving, playhead_n }) {
  const found = new Set([0, Math.round(playhead_n)]);
  const own = [];
  for (const lane of doc.lanes) {
    for (const clip of lane.clips) {
      const stop_n = clip.start_n + clip.length_n;
      if (moving.has(clip.id)) {
        if (clip.role === "key" || clip.role === "both") own.push([clip.start_n, stop_n]); // its passages move with it
      } else {
        found.add(clip.start_n);
        found.add(stop_n);
      }
    }
  }
  for (const marker of doc.markers) found.add(marker.time_n);
  for (const time_n of [doc.in_n, doc.out_n]) if (time_n !== null) found.add(time_n);
  for (const passage of doc.passages) {
    const moves = own.some(([start_n, stop_n]) => passage.start_n < stop_n && start_n < passage.stop_n);
    if (!moves) {
      found.add(passage.start_n);
      found.add(passage.stop_n);
    }
  }
  return [...found].sort((a, b) => a - b);
}

const SNAP_PX = 9;

/**
 * The shift of what is dragged, snapped unless Alt is held or snapping is off.
 * @param {any} event the pointer's @param {any} timeline
 */
export function snappedBy(event, timeline, by_n, edges, targets) {
  if (event.altKey || !timeline.snapping) return { by_n: Math.round(by_n), at_n: null };
  return snapped(Math.round(by_n), edges, targets, SNAP_PX * timeline.view.n_per_px);
}

/**
 * The shift nearest to `by_n` that brings one of the edges onto one of the places, if it is within reach.
 * @param {number[]} edges times of what moves, before the move
 * @returns {{by_n: number, at_n: number | null}} `at_n`: the place it snapped to
 */
export function snapped(by_n, edges, targets, reach_n) {
  let best = { by_n, at_n: null };
  let least = reach_n + 1;
  for (const edge of edges) {
    const near = nearest(targets, edge + by_n);
    const off = Math.abs(near - edge - by_n);
    if (off < least) {
      least = off;
      best = { by_n: near - edge, at_n: near };
    }
  }
  return best;
}

function nearest(ascending, time_n) {
  let low = 0;
  let high = ascending.length - 1;
  while (low < high) {
    const middle = (low + high) >> 1;
    if (ascending[middle] < time_n) low = middle + 1;
    else high = middle;
  }
  const after = ascending[low];
  const before = ascending[Math.max(0, low - 1)];
  return Math.abs(before - time_n) <= Math.abs(after - time_n) ? before : after;
}
