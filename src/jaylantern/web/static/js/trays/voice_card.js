// The Voice card of Level: what is done to a voice, each part with its switch; before and after.

import { FigureField } from "../ground/figure_field.js";
import { release } from "../ground/focus_keeper.js";
import { saying } from "../ground/said.js";
import { tell } from "../ground/tell.js";
import { figure } from "../plain/units.js";
import { SPEAKS } from "../plain/vocabulary.js";

const TAB = "jay-lantern: level tab";

export class VoiceCard {
  /** @param {HTMLElement} tray @param {{pageDoc: any, selection: any, timeline: any, player: any, hear: (variant: string) => void}} parts */
  constructor(tray, { pageDoc, selection, timeline, player, hear }) {
    this._tray = tray;
    this._pageDoc = pageDoc;
    this._selection = selection;
    this._timeline = timeline;
    this._player = player;
    this._hear = hear;
    this._shown = false;
    this._open = new Set(); // lists of places that were unfolded: they stay so
    this._meant = null; // the lane and clip that are shown
    this._stop = new AbortController();
    const options = { signal: this._stop.signal };
    const find = (selector) => tray.querySelector(selector);
    this._of = find("#voice-of");
    this._start = find("#voice-start");
    this._before = find("#voice-before");
    this._parts = [...tray.querySelectorAll("[data-part]")].map((each) => this._wire(each));
    for (const tab of tray.querySelectorAll("[data-level-tab]")) tab.addEventListener("click", () => this._show(tab.dataset.levelTab), options);
    this._of.addEventListener("change", () => this._picked(), options);
    this._start.addEventListener("change", () => this._begin(), options);
    this._before.addEventListener("click", () => this._compare(), options);
    tray.addEventListener("click", (event) => this._unfold(event), options);
    tray.addEventListener("htmx:configRequest", (event) => event.target.id === "voice-heard" && this._asked(event), options);
    tray.addEventListener("htmx:afterSettle", (event) => event.target.id === "voice-heard" && this._heard(), options);
    selection.addEventListener("change", () => this._changed(), options);
    pageDoc.addEventListener("change", ({ detail }) => this._changed(detail.fresh), options);
    this._show(localStorage.getItem(TAB) ?? "match");
  }

  destroy() {
    this._stop.abort();
    this._timeline.showPlaces(null);
    if (this._player.variant === "bare") this._hear("ducked");
  }

  _show(tab) {
    localStorage.setItem(TAB, tab);
    for (const each of this._tray.querySelectorAll("[data-level-tab]")) each.setAttribute("aria-pressed", String(each.dataset.levelTab === tab));
    for (const name of ["match", "voice"]) this._tray.querySelector(`#level-${name}`).hidden = name !== tab;
    this._shown = tab === "voice";
    if (!this._shown) this._timeline.showPlaces(null);
    this._changed(true);
  }

  /** The clip and lane that are meant: the chosen clip where it has sound, else the first that speaks. */
  get _subject() {
    const { doc } = this._pageDoc;
    if (!doc) return null;
    const pairs = doc.lanes.filter((lane) => lane.kind === "sound").flatMap((lane) => lane.clips.map((clip) => ({ lane, clip })));
    const there = pairs.filter(({ clip }) => doc.media[clip.media_id].sound_n);
    const speaks = ({ clip }) => SPEAKS.has(clip.shown_tag);
    return there.find(({ clip }) => clip.id === this._selection.lead) ?? there.find(speaks) ?? null;
  }

  /** Something else is chosen, or the project has changed. */
  _changed(fresh = false) {
    if (!this._shown) return;
    const { lane, clip } = this._subject ?? {};
    const meant = clip ? `${lane.id} ${clip.id} ${clip.care !== null}` : "";
    if (meant !== this._meant) {
      this._meant = meant;
      const options = clip ? [["lane", `lane ${lane.name}`], ["clip", `${clip.name} alone`]] : [];
      this._of.replaceChildren(...options.map(([value, word]) => new Option(word, value)));
      this._of.value = clip?.care ? "clip" : "lane";
      fresh = true;
    }
    const care = clip ? (clip.care ?? lane.care) : {};
    for (const { part, toggle, field, element } of this._parts) {
      const value = care[part];
      toggle.checked = value !== undefined;
      toggle.disabled = !clip;
      element.classList.toggle("off", value === undefined);
      field.show(value ?? Number(element.dataset.usual));
    }
    if (fresh) tell("jay:voice");
  }

  _wire(element) {
    const toggle = element.querySelector("[role=switch]");
    const slider = element.querySelector("input[type=range]");
    const { part, unit, usual } = element.dataset;
    const field = new FigureField(element.querySelector(".knob-field input"), {
      slider,
      format: (value) => figure(value, value % 1 ? 1 : 0),
      unit,
      step: Number(slider.step),
      what: "the voice",
      reset: () => this._set({ [part]: Number(usual) }),
      send: (value, how) => this._set({ [part]: value }, how),
    });
    toggle.addEventListener("change", () => this._set({ [part]: toggle.checked ? Number(field.field.value.replace("−", "-")) || Number(usual) : null }));
    return { element, part, toggle, field };
  }

  _set(parts, { dragging = false, gesture = "" } = {}) {
    const { lane, clip } = this._subject ?? {};
    if (!clip) return Promise.resolve();
    const [deed, whose] = this._of.value === "clip" ? ["care_for_clips", { clip_ids: [clip.id] }] : ["care_for_lane", { lane_id: lane.id }];
    return saying(() => this._pageDoc[dragging ? "drag" : "do"](deed, { ...whose, parts, ...(gesture ? { gesture } : {}) }));
  }

  /** The lane, or the clip alone. */
  _picked() {
    const { clip } = this._subject ?? {};
    if (!clip) return;
    release(this._of);
    if (this._of.value === "lane" && clip.care) saying(() => this._pageDoc.do("care_as_lane", { clip_ids: [clip.id] }));
  }

  _begin() {
    const { lane } = this._subject ?? {};
    const start = this._start.value;
    this._start.value = "";
    release(this._start);
    if (lane && start) saying(() => this._pageDoc.do("start_care", { lane_id: lane.id, start }));
  }

  /** With nothing done to voices, or again with all of it; equally loud. */
  _compare() {
    const before = this._player.variant !== "bare";
    this._before.setAttribute("aria-pressed", String(before));
    this._hear(before ? "bare" : "ducked");
  }

  _unfold(event) {
    const list = event.target.closest("details[data-places] > summary")?.parentElement;
    if (list) this._open[list.open ? "delete" : "add"](list.dataset.places);
  }

  _asked(event) {
    const { clip } = this._subject ?? {};
    event.detail.parameters.clip = clip?.id ?? "";
  }

  _heard() {
    const data = document.getElementById("voice-drawn");
    for (const each of this._tray.querySelectorAll("details[data-places]")) each.open = this._open.has(each.dataset.places);
    const drawn = data ? JSON.parse(data.textContent) : null;
    this._player.care_db = drawn?.change_lu ?? 0;
    this._timeline.showPlaces(this._shown ? drawn : null);
  }
}
