// Shows the picture under the playhead. The sound's clock leads; the picture follows it.

import { RATE } from "./units.js";

const JUMP_S = 0.3; // further off than this: seek
const DRIFT_S = 0.045; // further off than this: run a little faster or slower

export class PictureView {
  /** @param {HTMLElement} element holds the video and the words for its absence */
  constructor(element, score) {
    this._element = element;
    this._video = element.querySelector("video");
    this._score = score;
    this._media_id = null;
  }

  /** Bring the picture to a time of the programme. */
  show(time_n, playing) {
    const clip = this._clipAt(time_n);
    this._element.classList.toggle("without", !clip);
    if (!clip) {
      this._still();
      return;
    }
    if (clip.media_id !== this._media_id) {
      this._media_id = clip.media_id;
      this._video.src = `/media/${clip.media_id}/picture`;
    }
    const wanted = (time_n - clip.start_n + clip.offset_n) / RATE;
    const fps = this._score.doc.media[clip.media_id].fps || 25;
    if (playing) this._follow(wanted);
    else this._hold(wanted + 0.25 / fps, fps);
  }

  _clipAt(time_n) {
    for (const lane of this._score.doc.lanes) {
      if (lane.kind !== "picture") continue;
      const clip = lane.clips.find((each) => each.start_n <= time_n && time_n < each.start_n + each.length_n);
      if (clip) return clip;
    }
    return null;
  }

  _follow(wanted) {
    const off = wanted - this._video.currentTime;
    if (Math.abs(off) > JUMP_S && !this._video.seeking) this._video.currentTime = wanted;
    this._video.playbackRate = Math.abs(off) > DRIFT_S ? (off > 0 ? 1.06 : 0.94) : 1;
    if (this._video.paused) this._video.play().catch(() => {});
  }

  _hold(wanted, fps) {
    this._still();
    if (!this._video.seeking && Math.abs(this._video.currentTime - wanted) > 0.4 / fps) this._video.currentTime = wanted;
  }

  _still() {
    if (!this._video.paused) this._video.pause();
  }
}
