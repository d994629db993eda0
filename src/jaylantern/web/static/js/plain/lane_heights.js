// Pure: how high the lanes are. Heights are CSS pixels.

import { TAGS } from "./vocabulary.js";

export const FOLDED_H = 28;
export const GAP_H = 4; // between two lanes
const USUAL = { picture: 40, mixed: 60, ...Object.fromEntries(TAGS.map((tag) => [tag.word, tag.height_px])) };
const LEAST = { picture: 34, sound: 52, music: 60 }; // what a lane's head needs, and a glow strip
const MOST_GROWTH = 4; // how far lanes grow where there is room

/**
 * The height of each lane: folded and given heights stay, the others share the room that is left. Where it is short all give
 * way alike, down to what their heads need; then the rows scroll.
 * @param {Array<{id: number, kind: string, shown_tag?: string}>} lanes
 * @param {{room_px: number, view: {folded: (id: number) => boolean, height: (id: number) => number | null}}} how
 * @returns {number[]} one height per lane
 */
export function laneHeights(lanes, { room_px, view }) {
  const fixed = lanes.map((lane) => (view.folded(lane.id) ? FOLDED_H : view.height(lane.id)));
  const usual = lanes.map((lane) => (lane.kind === "picture" ? USUAL.picture : USUAL[lane.shown_tag]));
  const least = lanes.map((lane) => (lane.kind === "picture" ? LEAST.picture : (LEAST[lane.shown_tag] ?? LEAST.sound)));
  const given = fixed.reduce((sum, height) => sum + (height ?? 0), 0);
  const free = (heights) => heights.reduce((sum, height, i) => sum + (fixed[i] === null ? height : 0), 0);
  const room = room_px - GAP_H * lanes.length - given;
  const growth = Math.min(Math.max(room / Math.max(free(usual), 1), 1), MOST_GROWTH);
  const between = Math.min(Math.max((room - free(least)) / Math.max(free(usual) - free(least), 1), 0), 1);
  return usual.map((height, i) => fixed[i] ?? Math.floor(least[i] + between * (height - least[i])) + Math.floor(height * (growth - 1)));
}
