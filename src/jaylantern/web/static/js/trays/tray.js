// The tray above the timeline: its pieces come and go with the step, and anew with every tray the server sends.

import { ClipTable } from "./clip_table.js";
import { DipPicture } from "./dip.js";
import { DraftsCard } from "./drafts_card.js";
import { FilmForm } from "./film_form.js";
import { usesKeys } from "../ground/focus_keeper.js";
import { Inspector } from "./inspector.js";
import { Knobs } from "./knobs.js";
import { LevelPanel } from "./level_panel.js";
import { MarkersPanel } from "./markers_panel.js";
import { PausesPanel } from "./pauses_panel.js";
import { PartCard, PresetsCard } from "./presets_card.js";
import { DuckBySelect, ScopeList } from "./scope.js";
import { SoundForm } from "./sound_form.js";
import { TailorPanel } from "./tailor_panel.js";
import { TakePanel } from "./take_panel.js";
import { Transfer } from "./transfer.js";
import { TuningMap } from "./tuning_map.js";
import { VoiceCard } from "./voice_card.js";

const by = (id) => document.getElementById(id);

export class Tray {
  /** @param {{pageDoc: any, selection: any, timeline: any, player: any, scope: any, busy: any, recorder: any, drafts: any, act: (name: string) => void, goTo: (time_n: number) => void, hear: (variant: string) => void}} parts */
  constructor(parts) {
    this._parts = parts;
    this._pieces = [];
    this._forms = [];
    this._taking = false; // is the focus to go to the tray when it has come?
    /** The panel for voice takes, while its tray is shown. @type {TakePanel | null} */
    this.takes = null;
  }

  /** The step whose tray is shown. */
  get step() {
    return document.querySelector("[data-tray]").dataset.tray;
  }

  /** What the forms of Hand off say of how things are made. */
  get formValues() {
    return Object.assign({}, ...this._forms.map((form) => form.values));
  }

  /** What the same press makes besides, of sound: form and rate of each. */
  get furtherForms() {
    return this._forms.find((form) => "several" in form)?.several ?? [];
  }

  /** Go to another step. */
  go(step) {
    this._taking = usesKeys();
    document.querySelector(`.steps a[data-step="${step}"]`).click();
  }

  /** The tray that was gone to is there and furnished: it takes the focus where a key asked for it. */
  arrived() {
    if (this._taking) this.takeFocus();
  }

  /** The focus goes into the tray: to what its panel is for, else to the tray. */
  takeFocus() {
    this._taking = false;
    const panel = document.querySelector(".panel:not([hidden])");
    (panel?.querySelector("#record, #pause-longest") ?? by("tray")).focus({ preventScroll: true });
  }

  /** Make the pieces of what the server sent. */
  furnish() {
    for (const piece of this._pieces) piece.destroy();
    this._pieces = [];
    this._forms = [];
    this.takes = null;
    const { pageDoc, selection, timeline, player, scope, busy, recorder, act, goTo, hear } = this._parts;
    this._put("dip", (box) => new DipPicture(box, { pageDoc, selection, peaks: timeline.peaks, said: by("dip-said"), scope }));
    if (by("tray")) this._furnishDuck();
    this._put("chosen", (box) => new Inspector(box, { pageDoc, selection, act, timeline }));
    this._put("markers", (box) => new MarkersPanel(box, { pageDoc, act, goTo, now: () => Math.round(player.now_n) }));
    this._put("pauses", (box) => new PausesPanel(box, { pageDoc, selection, player, timeline }));
    this.takes = this._put("take", (box) => new TakePanel(box, { pageDoc, player, busy, recorder }));
    this._forms = [this._put("sound-form", (box) => new SoundForm(box, { pageDoc, selection })), this._put("film-card", (box) => new FilmForm(box, { pageDoc }))].filter(Boolean);
    const level = document.querySelector('[data-tray="level"]');
    if (level) this._pieces.push(new LevelPanel(level, { pageDoc, selection, timeline }), new VoiceCard(level, { pageDoc, selection, timeline, player, hear }));
    const tailor = document.querySelector('[data-tray="tailor"]');
    if (tailor) this._pieces.push(new TailorPanel(tailor, { pageDoc, selection, timeline, player }));
    this._put("clip-table", (box) => new ClipTable(box, { pageDoc, selection, timeline }));
    for (const link of document.querySelectorAll(".steps a")) {
      if (link.dataset.step === this.step) link.setAttribute("aria-current", "step");
      else link.removeAttribute("aria-current");
    }
  }

  /** Make a piece if its element is there; answers it, or null. */
  _put(id, make) {
    const box = by(id);
    if (!box) return null;
    const piece = make(box);
    this._pieces.push(piece);
    return piece;
  }

  /** The pieces of the Duck tray that are there. */
  _furnishDuck() {
    const { pageDoc, selection, timeline, player, scope, drafts, hear } = this._parts;
    for (const each of document.querySelectorAll("#tray [data-knobs], #tray .scope-row")) {
      this._pieces.push(new Knobs(each, { pageDoc, scope: "scoped" in each.dataset ? scope : null }));
    }
    this._put("scope", (box) => new ScopeList(box, { scope }));
    this._put("transfer", (box) => new Transfer(box, { pageDoc, player }));
    this._put("show-presets", (box) => new PresetsCard(box, { pageDoc }));
    this._putCard("show-points", "Points", "points");
    this._putCard("show-limits", "Limits of clearance", "limits");
    this._put("show-map", (box) => new TuningMap(box, { pageDoc }));
    this._put("show-drafts", (box) => new DraftsCard(box, { pageDoc, selection, player, timeline, drafts, hear }));
    this._put("duck-by", (box) => new DuckBySelect(box, { scope }));
    this.showMode();
  }

  /** A card that drops down from a button, with settings in it. */
  _putCard(id, name, part) {
    const { pageDoc } = this._parts;
    this._put(id, (box) => {
      let knobs = null;
      const furnish = (card) => {
        knobs?.destroy();
        knobs = new Knobs(card, { pageDoc });
      };
      this._pieces.push({ destroy: () => knobs?.destroy() });
      return new PartCard(box, { pageDoc, name, url: `${pageDoc.url}/part/${part}`, furnish });
    });
  }

  /** Which of the ways to duck is at work, and what is shown of it. */
  showMode() {
    const tray = document.querySelector('[data-tray="duck"]');
    const { doc } = this._parts.pageDoc;
    if (!tray || !doc) return;
    const { mode, band } = doc.settings;
    tray.dataset.mode = mode;
    for (const button of tray.querySelectorAll("[data-set-mode]")) button.setAttribute("aria-pressed", button.dataset.setMode === mode);
    tray.querySelector(".band-edges").hidden = band !== "speech";
  }
}
