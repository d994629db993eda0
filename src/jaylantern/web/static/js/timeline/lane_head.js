// The head of a lane: grip, name, tag, mute, solo, fader, level, menu. Values can be typed, dragged, nudged, reset.

import { TAGS } from "../plain/vocabulary.js";
import { FigureField } from "../ground/figure_field.js";
import { done, release } from "../ground/focus_keeper.js";
import { halfTyped, sendTyped } from "../ground/half_typed.js";
import { saying } from "../ground/said.js";
import { figure } from "../plain/units.js";

const EDGE = `<div class="lane-edge" title="Drag to make the lane higher or lower; a double click: as usual"></div>`;
const LOW_DB = -48;
const HIGH_DB = 12;
const FLOOR_DB = -54; // where the level begins to show
const RIDE_REST_MS = 800; // a fader moved by keys or wheel is let go after such a rest
const HOLD_FRAMES = 70; // how long the highest level stays marked

/** A lane, for who listens: one of picture and one of sound may have the same name. */
const called = (lane) => `${lane.kind === "picture" ? "picture lane" : "lane"} ${lane.name}`;

export class LaneHead {
  /** @param {import("./timeline.js").Timeline} timeline */
  constructor(lane, pageDoc, timeline) {
    this._pageDoc = pageDoc;
    this._id = lane.id;
    this.element = document.createElement("div");
    const start =
      '<button type="button" class="lane-fold" title="Fold or unfold"></button><span class="lane-grip" title="Drag to another place"></span><input class="lane-name" maxlength="80" spellcheck="false">';
    const menu = '<button type="button" class="lane-menu" title="More">⋯</button>';
    this.element.innerHTML =
      lane.kind === "picture"
        ? `<div class="head-row">${start}<span class="lane-word">picture</span>${menu}</div>${EDGE}`
        : `<div class="head-row">${start}<select class="lane-tag">${TAGS.map(({ word }) => `<option>${word}</option>`).join("")}<option value="mixed" disabled hidden>mixed</option></select></div>
           <div class="head-row lane-more"><button type="button" class="lane-switch mute" title="Mute">M</button>
           <button type="button" class="lane-switch solo" title="Solo">S</button>
           <input type="range" class="fader" min="${LOW_DB}" max="${HIGH_DB}" step="0.5">
           <input class="fader-said figure" inputmode="decimal" autocomplete="off">${menu}</div>
           <div class="lane-level" aria-hidden="true" title="Level of the lane while it plays; click takes the clip mark off"><i></i><b></b><s></s></div>${EDGE}`;
    const find = (name) => this.element.querySelector(name);
    this._name = find(".lane-name");
    this._tag = find(".lane-tag");
    this._mute = find(".mute");
    this._solo = find(".solo");
    this._fold = find(".lane-fold");
    this._menu = find(".lane-menu");
    this._level = find(".lane-level i");
    this._hold = { element: find(".lane-level b"), db: FLOOR_DB, frames: 0 };
    this._shown = "";
    this._wire(timeline, find);
    if (this._tag) this._wireSound(find);
    if (this._tag) this._wireRide(find(".fader"), timeline);
    find(".lane-level")?.addEventListener("click", () => document.dispatchEvent(new Event("jay:unclip")));
  }

  _wire(timeline, find) {
    this._name.addEventListener("change", () => sendTyped(this._name, () => this._pageDoc.do("set_lane", { lane_id: this._id, name: this._name.value })));
    this._name.addEventListener("keydown", (event) => event.key === "Enter" && done(this._name));
    this._fold.addEventListener("click", () => timeline.fold(this._id, !timeline.laneView.folded(this._id)));
    this._menu.addEventListener("click", () => timeline.openMenu("lane", null, { lane_id: this._id }));
    this.element.addEventListener("contextmenu", (event) => {
      if (event.target.matches("input, select")) return;
      event.preventDefault();
      timeline.openMenu("lane", { x: event.clientX, y: event.clientY }, { lane_id: this._id });
    });
    find(".lane-grip").addEventListener("pointerdown", (event) => timeline.dragLane(event, this._id));
    find(".lane-edge").addEventListener("pointerdown", (event) => timeline.dragHeight(event, this._id));
    find(".lane-edge").addEventListener("dblclick", () => timeline.resizeLane(this._id, null));
  }

  _wireSound(find) {
    this._tag.addEventListener("change", () => {
      const clear = this._lane.shown_tag !== this._lane.tag && this._lane.shown_tag !== "mixed"; // it is what its clips say
      saying(() => this._pageDoc.do("tag_lane", { lane_id: this._id, tag: this._tag.value, clear }));
      release(this._tag);
    });
    this._mute.addEventListener("click", () => this._set({ muted: !this._lane.muted }));
    this._solo.addEventListener("click", () => this._set({ soloed: !this._lane.soloed }));
    this._gain = new FigureField(find(".fader-said"), {
      slider: find(".fader"),
      format: (value) => `${figure(value, 1)} dB`,
      unit: "dB",
      step: 0.5,
      what: "the fader",
      reset: () => this._set({ gain_db: 0 }),
      send: (gain_db, { gesture, dragging }) =>
        saying(() => this._pageDoc[dragging ? "drag" : "do"]("set_lane", { lane_id: this._id, gain_db, gesture })),
    });
  }

  /** While it plays and the gain line is in hand the fader rides: held with the mouse, a key or the wheel. */
  _wireRide(fader, timeline) {
    let rest = 0;
    let pressed = false;
    let held = false; // also when what it plays has come to its end: then the fader moves nothing until it is let go
    const show = (gain_db) => {
      fader.value = String(gain_db);
      this._gain.show(gain_db);
    };
    const riding = () => timeline.ride.lane_id === this._id;
    const touch = () => {
      clearTimeout(rest);
      if (riding() || !timeline.ride.ready) return;
      held = true;
      timeline.ride.touch(this._lane, show);
    };
    const letGo = () => {
      if (riding()) timeline.ride.letGo();
      if (held) show(this._lane.gain_db);
      held = false;
    };
    const restSoon = () => {
      clearTimeout(rest);
      if (pressed) return;
      const due = performance.now() + RIDE_REST_MS;
      const busy = () => performance.now() > due + RIDE_REST_MS / 4; // then what the hand did meanwhile comes first
      rest = setTimeout(() => (busy() ? restSoon() : letGo()), RIDE_REST_MS);
    };
    this._riding = () => held;
    const press = (down) => {
      pressed = down;
      (down ? touch : letGo)();
    };
    fader.addEventListener("pointerdown", () => press(true));
    for (const name of ["pointerup", "pointercancel"]) fader.addEventListener(name, () => press(false));
    fader.addEventListener("keydown", (event) => event.key.startsWith("Arrow") && touch());
    fader.addEventListener("keyup", (event) => event.key.startsWith("Arrow") && restSoon());
    fader.addEventListener(
      "wheel",
      (event) => {
        if (!timeline.ride.ready && !held) return;
        event.preventDefault();
        touch();
        fader.value = String(Number(fader.value) - 0.5 * Math.sign(event.deltaY));
        timeline.ride.to(Number(fader.value));
        restSoon();
      },
      { passive: false },
    );
    for (const name of ["input", "change"]) {
      this.element.addEventListener(
        name,
        (event) => {
          if (event.target !== fader || !held) return;
          event.stopPropagation(); // the fader of the lane stays as it is
          if (name === "input") timeline.ride.to(Number(fader.value));
        },
        { capture: true },
      );
    }
  }

  get _lane() {
    return this._pageDoc.lane(this._id);
  }

  _set(values) {
    return saying(() => this._pageDoc.do("set_lane", { lane_id: this._id, ...values }));
  }

  setFolded(folded) {
    this._fold.setAttribute("aria-expanded", !folded);
    this._fold.setAttribute("aria-label", `${folded ? "Unfold" : "Fold"} ${called(this._lane)}`);
  }

  /** The level of the lane, dBFS; null: silence. */
  showLevel(db) {
    if (!this._level) return;
    const hold = this._hold;
    hold.frames -= 1;
    if ((db ?? FLOOR_DB) >= hold.db || hold.frames <= 0) Object.assign(hold, { db: db ?? FLOOR_DB, frames: HOLD_FRAMES });
    const place = (level) => Math.min(Math.max((level - FLOOR_DB) / -FLOOR_DB, 0), 1).toFixed(2);
    const text = `${place(db ?? FLOOR_DB)} ${place(hold.db)}`;
    if (text === this._shown) return;
    this._shown = text;
    this._level.style.transform = `scaleX(${place(db ?? FLOOR_DB)})`;
    this._level.classList.toggle("hot", db !== null && db > -1);
    hold.element.style.left = hold.db > FLOOR_DB ? `${100 * Number(place(hold.db))}%` : "-3px";
    if (db !== null && db >= 0) this._level.parentElement.classList.add("clipped"); // until it is clicked away
  }

  /** Show the lane as it is now. */
  show(lane) {
    this.element.className = `lane-head tag-${lane.kind === "picture" ? "picture" : lane.shown_tag}${lane.bystander ? " bystander" : ""}`;
    if (!halfTyped(this._name)) this._name.value = lane.name;
    this._name.setAttribute("aria-label", `Name of ${called(lane)}`);
    this._menu.setAttribute("aria-label", `Menu of ${called(lane)}`);
    if (!this._tag) return;
    this._tag.value = lane.shown_tag;
    this._tag.setAttribute("aria-label", `Tag of lane ${lane.name}`);
    this._mute.setAttribute("aria-pressed", lane.muted);
    this._mute.setAttribute("aria-label", `Mute ${lane.name}`);
    this._solo.setAttribute("aria-pressed", lane.soloed);
    this._solo.setAttribute("aria-label", `Solo ${lane.name}`);
    this._gain.slider.setAttribute("aria-label", `Fader of ${lane.name}`);
    this._gain.field.setAttribute("aria-label", `Gain of ${lane.name}`);
    if (!this._riding?.()) this._gain.show(lane.gain_db);
  }
}
