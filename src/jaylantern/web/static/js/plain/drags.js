// Pure: how far clips that are dragged go, and what becomes of them. Times and shifts are samples.

import { nearestFrame } from "./frames.js";
import { RATE } from "./units.js";

const SHORTEST_N = RATE / 100; // a clip is no shorter

/** @typedef {{id: number, start_n: number, offset_n: number, length_n: number, media_id: number, fade_in_n?: number, fade_out_n?: number}} Clip */

/** The times at which clips begin and end. @param {Clip[]} clips */
export const edgesOf = (clips) => clips.flatMap((clip) => [clip.start_n, clip.start_n + clip.length_n]);

const within = (value, [low, high]) => Math.min(Math.max(value, low), high);

/**
 * The shift of clips that are moved: none begins before the film does; a picture among them goes from frame to frame, unless it
 * has snapped to a place or goes `free`.
 * @param {Clip[]} clips @param {{by_n: number, at_n: number | null}} found the shift wished, and what it snapped to
 * @param {{picture: Clip | undefined, frame_n: number, free: boolean}} how
 */
export function movedBy(clips, { by_n, at_n }, { picture, frame_n, free }) {
  const framed = free || at_n !== null || !picture ? by_n : nearestFrame(picture.start_n + by_n, frame_n) - picture.start_n;
  return Math.max(framed, -Math.min(...clips.map((clip) => clip.start_n)));
}

/** The shift of what clips show of their media: no further than there is of any. @param {Clip[]} clips @param {Record<number, {length_n: number}>} media */
export function slippedBy(clips, media, wanted) {
  const low = Math.max(...clips.map((clip) => -clip.offset_n));
  const high = Math.min(...clips.map((clip) => media[clip.media_id].length_n - clip.offset_n - clip.length_n));
  return within(Math.round(wanted), [low, high]);
}

/** How far the ends of clips can be shifted together, [least, most]. @param {Clip[]} clips @param {Record<number, {length_n: number}>} media @param {"start" | "stop"} edge */
export function trimRoom(clips, media, edge) {
  const rooms = clips.map((clip) =>
    edge === "start"
      ? [-Math.min(clip.offset_n, clip.start_n), clip.length_n - SHORTEST_N]
      : [SHORTEST_N - clip.length_n, media[clip.media_id].length_n - clip.offset_n - clip.length_n],
  );
  return [Math.max(...rooms.map(([low]) => low)), Math.min(...rooms.map(([, high]) => high))];
}

/** What is different of a clip whose end was shifted. @param {Clip} clip @param {"start" | "stop"} edge */
export const trimmed = (clip, edge, by_n) =>
  edge === "start" ? { start_n: clip.start_n + by_n, offset_n: clip.offset_n + by_n, length_n: clip.length_n - by_n } : { length_n: clip.length_n + by_n };

/** The length of a fade whose corner was shifted: not over the other one. @param {Clip} clip @param {"fade_in" | "fade_out"} end */
export function fadeLength(clip, end, by_n) {
  const other = end === "fade_in" ? clip.fade_out_n : clip.fade_in_n;
  return within(clip[`${end}_n`] + (end === "fade_in" ? by_n : -by_n), [0, clip.length_n - other]);
}

/** Where the corner of a fade lies. @param {Clip} clip @param {"fade_in" | "fade_out"} end */
export const cornerOf = (clip, end) => (end === "fade_in" ? clip.start_n + clip.fade_in_n : clip.start_n + clip.length_n - clip.fade_out_n);
