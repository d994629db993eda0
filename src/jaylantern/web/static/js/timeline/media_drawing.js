// The small waveforms in the list of media.

import { fitted } from "../ground/canvas.js";
import { allClips } from "../plain/clips.js";
import { BY_TAG } from "../plain/look.js";

/** Draw those that are on the page. */
export function drawMedia({ pageDoc, timeline }) {
  for (const canvas of document.querySelectorAll("canvas.media-wave")) {
    const media_id = Number(canvas.dataset.media);
    const medium = pageDoc.doc?.media[media_id];
    const peaks = medium && timeline.peaks.get(media_id, medium);
    const [width, height] = [canvas.clientWidth || 84, canvas.clientHeight || 40];
    const context = fitted(canvas, width, height);
    if (!peaks) continue;
    const clip = allClips(pageDoc.doc).find((each) => each.media_id === media_id);
    const columns = peaks.columns(0, medium.length_n / width, width);
    context.fillStyle = BY_TAG[clip?.shown_tag ?? "untagged"];
    for (let x = 0; x < width; x += 1) {
      const up = (columns[2 * x + 1] * height) / 2;
      context.fillRect(x, height / 2 - up, 1, Math.max(1, up - (columns[2 * x] * height) / 2));
    }
  }
}
