// The head of a lane: name, tag, mute, solo, fader. Values can be typed, dragged, nudged, reset by double-click.

import { newGesture } from "./score.js";
import { say, saying } from "./said.js";
import { figure, typed } from "./units.js";

const TAGS = ["dialogue", "music", "effects", "ambience", "untagged"];
const LOW_DB = -48;
const HIGH_DB = 12;

export class LaneHead {
  constructor(lane, score) {
    this._score = score;
    this._id = lane.id;
    this._gesture = null;
    this._typing = false;
    this.element = document.createElement("div");
    this.element.innerHTML =
      lane.kind === "picture"
        ? '<div class="head-row"><input class="lane-name" maxlength="80" spellcheck="false"><span class="lane-word">picture</span></div>'
        : `<div class="head-row"><input class="lane-name" maxlength="80" spellcheck="false">
           <select class="lane-tag">${TAGS.map((tag) => `<option>${tag}</option>`).join("")}</select></div>
           <div class="head-row"><button type="button" class="lane-switch mute" title="Mute">M</button>
           <button type="button" class="lane-switch solo" title="Solo">S</button>
           <input type="range" class="fader" min="${LOW_DB}" max="${HIGH_DB}" step="0.5">
           <input class="fader-said figure" inputmode="decimal" autocomplete="off"></div>`;
    this._name = this.element.querySelector(".lane-name");
    this._tag = this.element.querySelector(".lane-tag");
    this._mute = this.element.querySelector(".mute");
    this._solo = this.element.querySelector(".solo");
    this._fader = this.element.querySelector(".fader");
    this._said = this.element.querySelector(".fader-said");
    this._listen();
  }

  _listen() {
    this._name.addEventListener("change", () => this._set({ name: this._name.value }));
    this._name.addEventListener("keydown", (event) => event.key === "Enter" && this._name.blur());
    if (!this._tag) return;
    this._tag.addEventListener("change", () => {
      saying(() => this._score.do("tag_lane", { lane_id: this._id, tag: this._tag.value }));
      this._tag.blur(); // so that the keys work the transport again
    });
    this._mute.addEventListener("click", () => this._set({ muted: !this._lane.muted }));
    this._solo.addEventListener("click", () => this._set({ soloed: !this._lane.soloed }));
    this._fader.addEventListener("input", () => this._fade(Number(this._fader.value)));
    this._fader.addEventListener("change", () => {
      this._gesture = null;
    });
    this._fader.addEventListener("dblclick", () => this._set({ gain_db: 0 }));
    this._said.addEventListener("dblclick", () => this._set({ gain_db: 0 }));
    this._said.addEventListener("input", () => {
      this._typing = true;
    });
    this._said.addEventListener("change", () => this._typed());
    this._said.addEventListener("keydown", (event) => event.key === "Enter" && this._said.blur());
  }

  get _lane() {
    return this._score.lane(this._id);
  }

  _set(values) {
    return saying(() => this._score.do("set_lane", { lane_id: this._id, ...values }));
  }

  _fade(gain_db) {
    this._gesture ??= newGesture();
    this._say(gain_db);
    saying(() => this._score.drag("set_lane", { lane_id: this._id, gain_db, gesture: this._gesture }));
  }

  async _typed() {
    const gain_db = typed(this._said.value);
    this._typing = false;
    if (Number.isNaN(gain_db)) say(`“${this._said.value}” is not a number; the fader stays where it was.`, { trouble: true });
    else await this._set({ gain_db });
    this._say(this._lane.gain_db);
  }

  _say(gain_db) {
    this._said.value = `${figure(gain_db, 1)} dB`;
  }

  /** Show the lane as it is now. */
  show(lane) {
    this.element.className = `lane-head tag-${lane.kind === "picture" ? "picture" : lane.tag}`;
    if (document.activeElement !== this._name) this._name.value = lane.name;
    this._name.setAttribute("aria-label", `Name of lane ${lane.name}`);
    if (!this._tag) return;
    this._tag.value = lane.tag;
    this._tag.setAttribute("aria-label", `Tag of lane ${lane.name}`);
    this._mute.setAttribute("aria-pressed", lane.muted);
    this._mute.setAttribute("aria-label", `Mute ${lane.name}`);
    this._solo.setAttribute("aria-pressed", lane.soloed);
    this._solo.setAttribute("aria-label", `Solo ${lane.name}`);
    this._fader.setAttribute("aria-label", `Fader of ${lane.name}`);
    this._said.setAttribute("aria-label", `Gain of ${lane.name}`);
    if (this._gesture === null) {
      this._fader.value = lane.gain_db;
      if (!this._typing) this._say(lane.gain_db);
    }
  }
}
