// Pure: where frames of the picture begin. Times are samples at 48 kHz; a frame lasts 48000 / fps, which need not be whole.

import { RATE } from "./units.js";

/** When the frame nearest to a time begins, frames being counted from `origin_n`. */
export function nearestFrame(time_n, frame_n, origin_n = 0) {
  return origin_n + Math.round(Math.round((time_n - origin_n) / frame_n) * frame_n);
}

/** The beginning of the next frame after a time (way 1) or of the one before it (−1), frames being counted from `origin_n`. */
export function stepFrame(time_n, frame_n, way, origin_n = 0) {
  const at = (time_n - origin_n) / frame_n;
  const near = Math.round(at);
  const on = Math.abs(time_n - origin_n - Math.round(near * frame_n)) < 1;
  const frame = on ? near + way : way > 0 ? Math.ceil(at) : Math.floor(at);
  return Math.max(0, origin_n + Math.round(frame * frame_n));
}

/**
 * The picture clip that is on the screen at a time: of the lane that is uppermost there; null where there is none.
 * @param {{kind: string, clips: {start_n: number, length_n: number}[]}[]} lanes
 * @param {number} time_n
 * @returns {any} the clip as it stands in the lane
 */
export function onScreen(lanes, time_n) {
  for (const lane of lanes) {
    const clip = lane.kind === "picture" && lane.clips.find((each) => each.start_n <= time_n && time_n < each.start_n + each.length_n);
    if (clip) return clip;
  }
  return null;
}

/**
 * A step to the next frame or the one before, of the picture that is on the screen; from cut to cut none is left out.
 * @param {{kind: string, clips: {media_id: number, start_n: number, offset_n: number, length_n: number}[]}[]} lanes
 * @param {{time_n: number, way: number, frame_n: number, fps: (media_id: number) => number | null}} how `frame_n`: where nothing is on the screen
 */
export function stepOnScreen(lanes, { time_n, way, frame_n, fps }) {
  const shown = onScreen(lanes, way > 0 ? time_n : time_n - 1);
  const rate = shown && fps(shown.media_id);
  if (!shown || !rate) return stepFrame(time_n, frame_n, way);
  const to_n = stepFrame(time_n, RATE / rate, way, shown.start_n - shown.offset_n);
  return way > 0 ? Math.min(to_n, shown.start_n + shown.length_n) : Math.max(to_n, shown.start_n);
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
