// The boxes of the clips on one lane: buttons over the drawing that take the focus, the mouse and the words.

import { clipNotes } from "../plain/words.js";
import { RATE, clock } from "../plain/units.js";

const LEAST_BOX_PX = 3; // a clip narrower than this gets no box of its own, only its picture

export class ClipBoxes {
  /** @param {HTMLElement} body of the lane @param {HTMLElement} first what stands before the boxes in it */
  constructor(body, first, { pageDoc, selection }) {
    this._body = body;
    this._first = first;
    this._pageDoc = pageDoc;
    this._selection = selection;
    this._boxes = new Map();
    this._words = new Map();
  }

  get(clip_id) {
    return this._boxes.get(clip_id);
  }

  /** The clips of the lane have changed: make and remove boxes, and put them in the order in which the clips lie, for Tab. */
  show(lane) {
    const kept = new Set(lane.clips.map((clip) => clip.id));
    for (const [id, box] of this._boxes) {
      if (!kept.has(id)) {
        box.remove();
        this._boxes.delete(id);
        this._words.delete(id);
      }
    }
    for (const clip of lane.clips) this._describe(this._boxes.get(clip.id) ?? this._make(clip.id), lane, clip);
    let after = this._first;
    for (const clip of lane.clips) {
      const box = this._boxes.get(clip.id);
      if (after.nextSibling !== box) after.after(box);
      after = box;
    }
  }

  /** The choice has changed. */
  mark(lane) {
    for (const clip of lane.clips) {
      const box = this._boxes.get(clip.id);
      if (box && box.classList.contains("chosen") !== this._selection.clips.has(clip.id)) this._describe(box, lane, clip);
    }
  }

  _make(clip_id) {
    const box = document.createElement("button");
    box.type = "button";
    box.dataset.clip = String(clip_id);
    box.hidden = true;
    this._boxes.set(clip_id, box);
    this._body.append(box);
    return box;
  }

  /** Class and words of a box, touched only where they have changed. */
  _describe(box, lane, clip) {
    const medium = this._pageDoc.doc.media[clip.media_id];
    const notes = clipNotes(clip, medium);
    const silent = lane.kind === "sound" && !medium.sound_n;
    const look = [
      "clip",
      medium.missing && "file-missing",
      silent && "without-sound",
      this._selection.clips.has(clip.id) && "chosen",
      clip.shown_tag === "music" && !silent && "lit",
      clip.muted && "hushed",
      lane.kind === "sound" && clip.tag && clip.tag !== lane.tag && `own-tag tag-${clip.tag}`,
    ].filter(Boolean).join(" ");
    const words = `${look}|${clip.name}|${notes.join()}|${clip.start_n}|${clip.length_n}|${clip.shown_tag}|${clip.link !== null}`;
    if (this._words.get(clip.id) === words) return;
    this._words.set(clip.id, words);
    box.className = look;
    box.setAttribute("aria-label", [`Clip ${[clip.name, ...notes].join(" · ")}`, lane.kind === "sound" ? clip.shown_tag : "picture", `at ${clock(clip.start_n)}`, `${(clip.length_n / RATE).toFixed(1)} s long`].join(", "));
    box.textContent = [clip.link !== null ? `⚭ ${clip.name}` : clip.name, ...notes].join(" · ");
    box.title = [clip.name, ...notes].join(" · ");
  }
}

/** Put a clip's box where the clip is in view; over another lane, its box goes there. */
export function placeBox(box, clip, { view, body, chosen }) {
  const left = view.x(clip.start_n);
  const right = view.x(clip.start_n + clip.length_n);
  const hidden = right < 0 || left > view.width || (right - left < LEAST_BOX_PX && !chosen);
  if (box.hidden !== hidden) box.hidden = hidden;
  if (hidden) return;
  const from = Math.max(left, -2);
  const width = Math.max(3, Math.min(right, view.width + 2) - from);
  const place = `${from.toFixed(1)} ${width.toFixed(1)}`;
  if (box.place !== place) {
    box.place = place;
    box.style.left = `${from}px`;
    box.style.width = `${width}px`;
  }
  if (box.parentElement !== body) body.append(box);
}
