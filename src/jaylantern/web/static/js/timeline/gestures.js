// What the mouse does on the lanes: choose, move, trim, fade, slip, choose with a frame; on the ruler: markers and playhead.
// While something is dragged the timeline shows a preview; when it is let go the command is sent.

import { allClips } from "../plain/clips.js";
import { cornerOf, edgesOf, fadeLength, movedBy, slippedBy, trimRoom, trimmed } from "../plain/drags.js";
import { betweenFrames, framedCut } from "../plain/frames.js";
import { LineGestures } from "./line_gestures.js";
import { saying } from "../ground/said.js";
import { asksForMenu, commandHeld } from "../ground/system_keys.js";
import { places, snappedBy } from "../plain/snapping.js";
import { RATE, clock } from "../plain/units.js";

const DRAG_PX = 4;
const EDGE_PX = 7; // how near an end of a clip the pointer trims
const CORNER_PX = 8; // how near a fade's knob it fades
const CORNER_H = 15; // in the upper part of a clip only
const LEAST_PX = 20; // a clip narrower than this can only be moved
const BRACKET_H = 11; // in the uppermost part of a lane of dialogue the ends of passages can be taken hold of

/** What the pointer would take hold of in a clip. @returns {"fade_in" | "fade_out" | "start" | "stop" | "body"} */
function gripAt(view, clip, { x, y, sound }) {
  const left = view.x(clip.start_n);
  const right = view.x(clip.start_n + clip.length_n);
  if (right - left < LEAST_PX) return "body";
  if (sound && y <= CORNER_H) {
    if (Math.abs(x - (left + clip.fade_in_n / view.n_per_px)) <= CORNER_PX) return "fade_in";
    if (Math.abs(x - (right - clip.fade_out_n / view.n_per_px)) <= CORNER_PX) return "fade_out";
  }
  if (x - left <= EDGE_PX) return "start";
  if (right - x <= EDGE_PX) return "stop";
  return "body";
}

/** What becomes of what lies where something is let go, by the keys that are held. @returns {"own" | "overwrite" | "insert"} */
export const landingOf = (event) => (commandHeld(event) ? (event.shiftKey ? "insert" : "overwrite") : "own");
export const LANDING_WORDS = { own: "", overwrite: "lay over · ", insert: "insert · " };

export class Gestures {
  /** @param {import("./timeline.js").Timeline} timeline */
  constructor(timeline, { pageDoc, selection }) {
    this.timeline = timeline;
    this.pageDoc = pageDoc;
    this.selection = selection;
    this._line = new LineGestures(this);
    const { lanesElement: lanes } = timeline;
    lanes.addEventListener("pointerdown", (event) => this._press(event));
    lanes.addEventListener("pointermove", (event) => this._hover(event));
    lanes.addEventListener("contextmenu", (event) => this._menu(event));
    lanes.addEventListener("dblclick", (event) => this._double(event));
  }

  /** Follow the pointer until it is let go; Escape gives up. */
  /** @param {any} event @param {{move: (moved: any) => void, done?: (finished: boolean) => unknown}} what */
  follow(event, { move, done }) {
    const target = event.currentTarget;
    const stop = new AbortController();
    const options = { signal: stop.signal };
    target.setPointerCapture(event.pointerId);
    const end = (finished) => {
      stop.abort();
      if (target.hasPointerCapture(event.pointerId)) target.releasePointerCapture(event.pointerId);
      done?.(finished);
    };
    target.addEventListener("pointermove", move, options);
    target.addEventListener("pointerup", () => end(true), options);
    target.addEventListener("pointercancel", () => end(false), options);
    const escape = (key) => {
      if (key.key !== "Escape") return;
      key.preventDefault();
      key.stopPropagation();
      end(false);
    };
    document.addEventListener("keydown", escape, { ...options, capture: true });
  }

  _hover(event) {
    if (event.buttons) return;
    const hit = this.timeline.hit(event);
    const special = hit && (this._bracketAt(hit) ? "passage" : hit.clip && this._pointAt(hit) ? "point" : null);
    if (special) {
      this.timeline.lanesElement.dataset.grip = special;
      this.timeline.setHovered(hit.clip?.id ?? null);
      return;
    }
    const draws = hit?.clip && this._drawsLine(event, hit);
    const grip = draws ? "line" : hit?.clip ? gripAt(this.timeline.view, hit.clip, { x: hit.x, y: hit.y, sound: hit.lane.kind === "sound" }) : null;
    this.timeline.lanesElement.dataset.grip = event.shiftKey && grip === "body" ? "slip" : (grip ?? "");
    this.timeline.setHovered(hit?.clip?.id ?? null);
  }

  _menu(event) {
    const hit = this.timeline.hit(event);
    if (!hit) return;
    event.preventDefault();
    const point = hit.clip && this._pointAt(hit);
    if (point) {
      if (point.index !== null) this.timeline.points.press(event, hit, point);
      this.timeline.openMenu("point", { x: event.clientX, y: event.clientY }, { hit, point });
    } else if (hit.clip) {
      if (!this.selection.clips.has(hit.clip.id)) this.selection.choose([hit.clip.id]);
      this.timeline.openMenu("clips", { x: event.clientX, y: event.clientY });
    } else {
      this.timeline.openMenu("lane", { x: event.clientX, y: event.clientY }, { lane_id: hit.lane.id });
    }
  }

  _press(event) {
    const hit = this.timeline.hit(event);
    if (!hit || event.button !== 0 || asksForMenu(event)) return;
    const bracket = this._bracketAt(hit);
    const point = !bracket && hit.clip ? this._pointAt(hit) : null;
    if (bracket) this._pressBracket(event, bracket);
    else if (point && point.index !== null) this._pressPoint(event, hit, point);
    else if (hit.clip && this._drawsLine(event, hit)) this._line.press(event, hit, point);
    else if (hit.clip) this._pressClip(event, hit);
    else this._pressEmpty(event, hit);
  }

  /** Is a press on the body of a clip meant for its gain line? */
  _drawsLine(event, hit) {
    const plain = !event.shiftKey && !event.ctrlKey && !event.metaKey && this.selection.hand === "line";
    return plain && this.timeline.points.bearer.nameOn(hit) !== null && gripAt(this.timeline.view, hit.clip, { x: hit.x, y: hit.y, sound: true }) === "body";
  }

  // — ends of passages —

  /** The end of a passage under the pointer, on a lane that speaks. */
  _bracketAt(hit) {
    if (!hit.lane.speaks || hit.y > BRACKET_H) return null;
    const { view } = this.timeline;
    const near = (time_n) => Math.abs(view.x(time_n) - hit.x) <= EDGE_PX;
    const { passages } = this.pageDoc.doc;
    const stops = passages.findIndex((each) => near(each.stop_n) && hit.x <= view.x(each.stop_n) + 3);
    if (stops >= 0) return { index: stops, edge: "stop" };
    const starts = passages.findIndex((each) => near(each.start_n));
    return starts < 0 ? null : { index: starts, edge: "start" };
  }

  _pressBracket(event, { index, edge }) {
    const { timeline, pageDoc, selection } = this;
    const { passages } = pageDoc.doc;
    const from_n = passages[index][`${edge}_n`];
    let to_n = from_n;
    selection.choosePassage(index);
    this.follow(event, {
      move: (moved) => {
        const targets = [timeline.playhead_n, ...pageDoc.doc.markers.map((marker) => marker.time_n)];
        const found = this._snap(moved, (moved.clientX - event.clientX) * timeline.view.n_per_px, [from_n], targets);
        to_n = Math.max(0, from_n + found.by_n);
        const shown = passages.map((each, i) => (i === index ? { ...each, [`${edge}_n`]: to_n, touched: true } : each));
        timeline.showPreview({ passages: shown, at_n: found.at_n, word: `passage ${index + 1} ${edge === "start" ? "begins" : "ends"} ${clock(to_n, 2)}` });
      },
      done: async (finished) => {
        if (finished && to_n !== from_n) await saying(() => pageDoc.do("move_edge", { index, edge, to_n }));
        timeline.endPreview();
      },
    });
  }

  // — points of the curve —

  /** The point of a curve under the pointer, or its line; not where a clip's ends and fades are taken hold of. */
  _pointAt(hit) {
    const grip = gripAt(this.timeline.view, hit.clip, { x: hit.x, y: hit.y, sound: true });
    return grip === "body" ? this.timeline.pointAt(hit) : null;
  }

  _pressPoint(event, hit, point) {
    const { timeline } = this;
    const { points } = timeline;
    points.press(event, hit, point);
    if (!points.chosen.has(point.index)) return;
    const drag = points.drag(hit, timeline.heightOf(hit.lane.id));
    const from = { x: event.clientX, y: event.clientY };
    let dragging = false;
    this.follow(event, {
      move: (moved) => {
        dragging ||= Math.hypot(moved.clientX - from.x, moved.clientY - from.y) > DRAG_PX;
        if (dragging) drag.to(moved, (moved.clientX - from.x) * timeline.view.n_per_px, moved.clientY - from.y);
      },
      done: (finished) => dragging && this._drop(drag, finished),
    });
  }

  /** A double click on a point asks for its exact values, on the line beside it adds one. */
  _double(event) {
    const hit = this.timeline.hit(event);
    const point = hit?.clip && this._pointAt(hit);
    if (!point) return;
    event.preventDefault();
    if (point.index !== null) this.timeline.points.exact();
    else this.timeline.points.add(hit.lane.id, point.name, hit.time_n);
  }

  // — empty lane: the playhead, or a frame that chooses —

  _pressEmpty(event, hit) {
    const { timeline, selection } = this;
    const from = { x: event.clientX, y: event.clientY };
    const kept = commandHeld(event) ? [...selection.clips] : [];
    let framing = false;
    this.follow(event, {
      move: (moved) => {
        framing ||= Math.hypot(moved.clientX - from.x, moved.clientY - from.y) > DRAG_PX;
        if (!framing) return;
        const within = timeline.showFrame(from, { x: moved.clientX, y: moved.clientY });
        selection.choose([...kept, ...within]);
      },
      done: (finished) => {
        timeline.hideFrame();
        if (framing || !finished) return;
        selection.choose(kept);
        timeline.seekTo(hit.time_n);
      },
    });
  }

  // — a clip —

  _pressClip(event, hit) {
    const { timeline, selection } = this;
    const grip = gripAt(timeline.view, hit.clip, { x: hit.x, y: hit.y, sound: hit.lane.kind === "sound" });
    timeline.points.clear();
    const toggles = commandHeld(event);
    const was = selection.clips.has(hit.clip.id);
    if (!was && !toggles && !event.shiftKey) selection.choose([hit.clip.id]);
    const kind = grip !== "body" ? grip : event.shiftKey && !toggles ? "slip" : "move";
    const drag = this._drag(kind, hit);
    const from = event.clientX;
    let dragging = false;
    this.follow(event, {
      move: (moved) => {
        dragging ||= Math.abs(moved.clientX - from) > DRAG_PX || Math.abs(moved.clientY - event.clientY) > 3 * DRAG_PX;
        if (!dragging) return;
        if (!selection.clips.has(hit.clip.id)) selection.choose([hit.clip.id]);
        drag.to(moved, (moved.clientX - from) * timeline.view.n_per_px);
      },
      done: (finished) => {
        if (dragging) this._drop(drag, finished);
        else if (finished) this._click(event, hit, { toggles });
      },
    });
  }

  _click(event, hit, { toggles }) {
    const { selection, timeline } = this;
    if (toggles) {
      selection.toggle(hit.clip.id);
    } else if (event.shiftKey) {
      selection.chooseUpTo(hit.clip.id, this.pageDoc.doc.lanes);
    } else {
      selection.choose([hit.clip.id]);
      timeline.seekTo(hit.time_n);
    }
    timeline.focusClip(hit.clip.id);
  }

  _drag(kind, hit) {
    if (kind === "move") return this._moving(hit);
    if (kind === "slip") return this._slipping(hit);
    if (kind === "start" || kind === "stop") return this._trimming(hit, kind);
    return this._fading(hit, kind);
  }

  async _drop(drag, finished) {
    const { timeline } = this;
    const command = finished ? drag.command() : null;
    if (command) await saying(() => this.pageDoc.do(...command));
    timeline.endPreview();
  }

  /** The shift brought to a place worth snapping to; Alt suspends that. */
  _snap(event, by_n, edges, targets) {
    return snappedBy(event, this.timeline, by_n, edges, targets);
  }

  _targets(clips) {
    return places(this.pageDoc.doc, { moving: new Set(clips.map((clip) => clip.id)), playhead_n: this.timeline.playhead_n });
  }

  /** What is dragged: the chosen clips, or the one under the pointer. */
  _chosen(hit) {
    return this.selection.clips.has(hit.clip.id) ? this.selection.clips : new Set([hit.clip.id]);
  }

  _moving(hit) {
    const { timeline, pageDoc } = this;
    const chosen = this._chosen(hit);
    const clips = pageDoc.together(chosen);
    const targets = this._targets(clips);
    const edges = edgesOf(clips.length > 40 ? [hit.clip] : clips);
    const [picture] = pageDoc.pictures(clips);
    let by_n = 0;
    let lanes_by = 0;
    let how = "own";
    return {
      to: (event, wanted) => {
        const found = this._snap(event, wanted, edges, targets);
        how = landingOf(event);
        by_n = movedBy(clips, found, { picture, frame_n: pageDoc.frame_n, free: event.altKey });
        lanes_by = timeline.lanesBetween(hit.lane, event);
        const moved = { ids: new Set(clips.map((clip) => clip.id)), by_n, lanes_by, kind: hit.lane.kind, across: chosen };
        timeline.showPreview({ moved, at_n: by_n === found.by_n ? found.at_n : null, word: `${LANDING_WORDS[how]}${clock(Math.max(0, hit.clip.start_n + by_n), 2)}` });
      },
      command: () => {
        if (!by_n && !lanes_by) return null;
        return ["move_clips", { clip_ids: [...chosen], by_n, lanes_by, leader_id: hit.clip.id, how }];
      },
    };
  }

  _slipping(hit) {
    const { timeline, pageDoc } = this;
    const chosen = this._chosen(hit);
    const clips = pageDoc.together(chosen);
    let by_n = 0;
    return {
      to: (_, wanted) => {
        by_n = slippedBy(clips, pageDoc.doc.media, -wanted);
        const changed = new Map(clips.map((clip) => [clip.id, { offset_n: clip.offset_n + by_n }]));
        timeline.showPreview({ changed, word: `${by_n < 0 ? "−" : "+"}${(Math.abs(by_n) / RATE).toFixed(2)} s of the media` });
      },
      command: () => (by_n ? ["slip_clips", { clip_ids: [...chosen], by_n }] : null),
    };
  }

  _trimming(hit, edge) {
    const { timeline, pageDoc } = this;
    const chosen = this._chosen(hit);
    const clips = pageDoc.together(chosen);
    const targets = this._targets(clips);
    const at_n = edge === "start" ? hit.clip.start_n : hit.clip.start_n + hit.clip.length_n;
    const tailors = edge === "stop" && clips.length === 1 && hit.clip.shown_tag === "music" && document.querySelector('[data-tray="tailor"]'); // the end is a wish
    const pictures = this._wholeOf(pageDoc.pictures(clips)); // a cut keeps to the frames of what it cuts
    const between = (time_n) => (betweenFrames(pictures, time_n) ? " · between frames" : "");
    const [low, high] = tailors ? [RATE - hit.clip.length_n, Infinity] : trimRoom(clips, pageDoc.doc.media, edge);
    let by_n = 0;
    return {
      to: (event, wanted) => {
        const found = this._snap(event, wanted, [at_n], targets);
        const framed = event.altKey ? found.by_n : framedCut(pictures, at_n + found.by_n) - at_n;
        by_n = Math.min(Math.max(framed, low), high);
        const changed = new Map(clips.map((clip) => [clip.id, trimmed(clip, edge, by_n)]));
        timeline.showPreview({ changed, at_n: by_n === found.by_n ? found.at_n : null, word: `${clock(at_n + by_n, 2)}${between(at_n + by_n)}` });
      },
      command: () => {
        if (!by_n) return null;
        return tailors ? ["tailor_clip", { clip_id: hit.clip.id, length_n: hit.clip.length_n + by_n }] : ["trim_clips", { clip_ids: [...chosen], edge, by_n }];
      },
    };
  }

  /** Picture clips as long as their media are, since an end may be drawn out so far. */
  _wholeOf(pictures) {
    return pictures.map((clip) => ({ ...clip, start_n: clip.start_n - clip.offset_n, offset_n: 0, length_n: this.pageDoc.doc.media[clip.media_id].length_n }));
  }

  _fading(hit, end) {
    const { timeline } = this;
    const chosen = this._chosen(hit);
    const clips = allClips(this.pageDoc.doc).filter((clip) => chosen.has(clip.id));
    const was = hit.clip[`${end}_n`];
    let length_n = was;
    return {
      to: (event, wanted) => {
        const found = this._snap(event, wanted, [cornerOf(hit.clip, end)], [timeline.playhead_n]);
        length_n = fadeLength(hit.clip, end, found.by_n);
        const heard = end === "fade_in" ? "heard_in_n" : "heard_out_n";
        const changed = new Map(clips.map((clip) => [clip.id, { [`${end}_n`]: length_n, [heard]: length_n }]));
        timeline.showPreview({ changed, word: `fade ${(length_n / RATE).toFixed(2)} s` });
      },
      command: () => (length_n === was ? null : ["fade_clips", { clip_ids: [...chosen], end, length_n }]),
    };
  }
}
