// Pure: where frames of the picture begin. Times are samples at 48 kHz; a frame lasts 48000 / fps, which need not be whole.

import { RATE } from "./units.js";

/** When the frame nearest to a time begins, frames being counted from `origin_n`. */
export function nearestFrame(time_n, frame_n, origin_n = 0) {
  return origin_n + Math.round(Math.round((time_n - origin_n) / frame_n) * frame_n);
}

/** The beginning of the next frame after a time (way 1) or of the one before it (−1). */
export function stepFrame(time_n, frame_n, way) {
  const at = time_n / frame_n;
  const near = Math.round(at);
  const on = Math.abs(time_n - Math.round(near * frame_n)) < 1;
  const frame = on ? near + way : way > 0 ? Math.ceil(at) : Math.floor(at);
  return Math.max(0, Math.round(frame * frame_n));
}

/**
 * A cut brought to where a frame of the picture it goes through begins; as it is where it goes through none.
 * @param {{start_n: number, offset_n: number, length_n: number, fps: number}[]} pictures picture clips that are cut
 * @param {number} time_n on the timeline
 */
export function framedCut(pictures, time_n) {
  const over = pictures.find((clip) => clip.fps && clip.start_n - 1 <= time_n && time_n <= clip.start_n + clip.length_n + 1);
  return over ? nearestFrame(time_n, RATE / over.fps, over.start_n - over.offset_n) : time_n;
}

/** Does a cut lie between two frames of a picture it goes through? */
export const betweenFrames = (pictures, time_n) => framedCut(pictures, time_n) !== time_n;
