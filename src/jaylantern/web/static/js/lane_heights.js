// Pure: how high the lanes are. Heights are CSS pixels.

import { FOLDED_H } from "./lane_view.js";
import { TAGS } from "./vocabulary.js";

export const GAP_H = 4; // between two lanes
const LEAST = { picture: 40, mixed: 60, ...Object.fromEntries(TAGS.map((tag) => [tag.word, tag.height_px])) };
const MOST_GROWTH = 4; // how far lanes grow where there is room

/**
 * The height of each lane: folded and given heights stay, the others share the room that is left; where it is short they keep
 * their least height, and the rows scroll.
 * @param {Array<{id: number, kind: string, shown_tag?: string}>} lanes
 * @param {{room_px: number, view: {folded: (id: number) => boolean, height: (id: number) => number | null}}} how
 * @returns {number[]} one height per lane
 */
export function laneHeights(lanes, { room_px, view }) {
  const fixed = lanes.map((lane) => (view.folded(lane.id) ? FOLDED_H : view.height(lane.id)));
  const least = lanes.map((lane) => (lane.kind === "picture" ? LEAST.picture : LEAST[lane.shown_tag]));
  const given = fixed.reduce((sum, height) => sum + (height ?? 0), 0);
  const wanted = least.reduce((sum, height, i) => sum + (fixed[i] === null ? height : 0), 0);
  const growth = Math.min(Math.max((room_px - GAP_H * lanes.length - given) / Math.max(wanted, 1), 1), MOST_GROWTH);
  return least.map((height, i) => fixed[i] ?? Math.floor(height * growth));
}
