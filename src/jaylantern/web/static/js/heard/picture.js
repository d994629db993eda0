// Shows the picture under the playhead. The sound's clock leads; the picture follows it. There are two players: while one
// shows a clip, the other makes the next one ready, so that a cut is a cut.

import { onScreen } from "../plain/frames.js";
import { RATE } from "../plain/units.js";

const JUMP_S = 0.3; // further off than this: seek
const DRIFT_S = 0.045; // further off than this: run a little faster or slower
const READY_S = 3; // how long before a cut the next clip is made ready
const NONE = "No picture at this place";

/** One of the two players. */
class Deck {
  constructor(video) {
    this.video = video;
    this.media_id = null;
    this.clip_id = null; // the clip it was made ready for
  }

  load(media_id) {
    if (this.media_id === media_id) return;
    this.media_id = media_id;
    this.video.src = `/media/${media_id}/picture`;
  }

  still() {
    if (!this.video.paused) this.video.pause();
  }
}

export class PictureView {
  /** @param {HTMLElement} element holds the video and the words for its absence */
  constructor(element, pageDoc) {
    this._element = element;
    this._words = element.querySelector(".picture-none");
    this._pageDoc = pageDoc;
    const first = element.querySelector("video");
    const second = first.cloneNode();
    first.after(second);
    this._decks = [new Deck(first), new Deck(second)];
    for (const deck of this._decks) deck.video.addEventListener("error", () => (deck.media_id = null));
    this._swap(0);
  }

  get _front() {
    return this._decks[this._at];
  }

  get _back() {
    return this._decks[1 - this._at];
  }

  _swap(at) {
    this._at = at;
    this._decks.forEach(({ video }, i) => video.classList.toggle("front", i === at));
  }

  /** Bring the picture to a time of the programme. */
  show(time_n, playing) {
    const clip = this._clipAt(time_n);
    const medium = clip && this._pageDoc.doc.media[clip.media_id];
    const ready = Boolean(medium?.picture_mime);
    this._element.classList.toggle("without", !ready);
    if (playing) this._makeReady(time_n, clip);
    if (!ready) {
      const words = clip ? (medium.missing ? `${clip.name} is missing` : "The picture is being made") : NONE;
      if (this._words.textContent !== words) this._words.textContent = words;
      for (const deck of this._decks) if (deck.clip_id === null) deck.still();
      return;
    }
    if (this._back.clip_id === clip.id) {
      this._front.still();
      this._swap(1 - this._at);
      this._back.clip_id = null;
    }
    this._front.clip_id = null;
    this._front.load(clip.media_id);
    const wanted = (time_n - clip.start_n + clip.offset_n) / RATE;
    const fps = medium.fps || 25;
    if (playing) this._follow(wanted);
    else this._hold(wanted + 0.25 / fps, fps);
  }

  _lanes() {
    return this._pageDoc.doc.lanes.filter((lane) => lane.kind === "picture");
  }

  _clipAt(time_n) {
    return onScreen(this._pageDoc.doc.lanes, time_n);
  }

  /** Where another picture begins soon, load it into the other player and hold its first frame. */
  _makeReady(time_n, clip) {
    const soon = (each) => each.start_n > time_n && each.start_n < time_n + READY_S * RATE;
    const next = this._lanes().flatMap((lane) => lane.clips.filter(soon)).sort((a, b) => a.start_n - b.start_n)[0];
    if (!next || this._back.clip_id === next.id || !this._pageDoc.doc.media[next.media_id].picture_mime) return;
    const runsOn = clip?.media_id === next.media_id && clip.start_n + clip.length_n === next.start_n && clip.offset_n - clip.start_n === next.offset_n - next.start_n;
    if (runsOn) return;
    const back = this._back;
    back.load(next.media_id);
    back.still();
    back.clip_id = next.id;
    back.video.currentTime = next.offset_n / RATE;
  }

  _follow(wanted) {
    const { video } = this._front;
    const off = wanted - video.currentTime;
    if (Math.abs(off) > JUMP_S && !video.seeking) video.currentTime = wanted;
    video.playbackRate = Math.abs(off) > DRIFT_S ? (off > 0 ? 1.06 : 0.94) : 1;
    if (video.paused) video.play().catch(() => {});
  }

  _hold(wanted, fps) {
    const { video } = this._front;
    this._front.still();
    if (!video.seeking && Math.abs(video.currentTime - wanted) > 0.4 / fps) video.currentTime = wanted;
  }
}
