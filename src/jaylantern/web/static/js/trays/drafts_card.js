// The card of the two drafts: hold one, what differs, equally loud or not, a blind round.

import { getJson, sendJson } from "../ground/api.js";
import { DropCard } from "../ground/drop_card.js";
import { say, saying } from "../ground/said.js";
import { Stretches } from "./stretches.js";
import { RATE } from "../plain/units.js";

const BEFORE_N = 1.5 * RATE;
const AFTER_N = 2 * RATE;
const LONGEST_N = 9 * RATE;

export class DraftsCard {
  constructor(button, { pageDoc, selection, player, timeline, drafts, hear }) {
    this._pageDoc = pageDoc;
    this._selection = selection;
    this._player = player;
    this._drafts = drafts;
    this._hearVariant = hear;
    this._stretches = new Stretches({ player, timeline });
    this._round = null; // of a blind round: its order, which are held, which were heard
    this._card = new DropCard({ button, name: "Two drafts", url: () => `${pageDoc.url}/part/drafts`, shown: () => this._furnish() });
    const { box } = this._card;
    box.classList.add("drafts-card");
    box.addEventListener("click", (event) => this._click(event.target));
    box.addEventListener("change", ({ target }) => {
      if (target instanceof HTMLInputElement && target.id === "draft-match") drafts.match(target.checked);
    });
    box.addEventListener("toggle", (event) => event.newState === "closed" && this._end());
    this._stop = new AbortController();
    drafts.addEventListener("change", () => this._heard(), { signal: this._stop.signal });
    pageDoc.addEventListener("change", ({ detail }) => detail.fresh && this._changed(), { signal: this._stop.signal });
  }

  destroy() {
    this._end();
    this._stop.abort();
    this._card.destroy();
  }

  _by(id) {
    return /** @type {any} */ (this._card.box.querySelector(`#${id}`));
  }

  _changed() {
    this._end();
    if (this._card.open) this._card.fetch();
  }

  _furnish() {
    this._end();
    if (this._by("draft-match")) this._by("draft-match").checked = this._drafts.matched;
    this._heard();
  }

  _heard() {
    for (const each of this._card.box.querySelectorAll("[data-hear]")) each.setAttribute("aria-pressed", String(each.dataset.hear === this._drafts.heard));
  }

  _click(target) {
    if (target.id === "blind-begin") this._begin();
    else if (target.id === "blind-tell") this._tell();
    else if (target.dataset.hear) this._drafts.hear(target.dataset.hear);
    else if (target.dataset.listen) this._hear(Number(target.dataset.listen));
  }

  /** The stretch that is heard: the chosen passage with something before and after it, else from where the playhead stands. */
  get _stretch() {
    const passage = this._pageDoc.doc.passages[this._selection.passage];
    const start_n = passage ? Math.max(0, passage.start_n - BEFORE_N) : this._player.now_n;
    const stop_n = passage ? passage.stop_n + AFTER_N : start_n + LONGEST_N;
    return [Math.round(start_n), Math.round(Math.min(stop_n, start_n + LONGEST_N, this._pageDoc.doc.length_n))];
  }

  async _begin() {
    this._end();
    const drawn = await saying(() => getJson(`${this._pageDoc.url}/drafts/blind`));
    if (!drawn) return;
    const stretch = this._stretch;
    if (stretch[1] - stretch[0] < RATE / 2) {
      say("There is nothing to hear from here on. Choose a passage, or go back a little.");
      return;
    }
    this._round = { ...drawn, stretch, heard: new Set() };
    for (const each of this._card.box.querySelectorAll("[data-told]")) each.textContent = "";
    for (const each of this._card.box.querySelectorAll("[data-liked]")) Object.assign(each, { checked: false, disabled: false });
    this._by("blind-row").hidden = false;
    this._by("blind-tell").disabled = true;
    this._by("blind-said").textContent = "Hear all four, as often as you like, and mark those you like.";
    this._card.box.querySelector("[data-listen]").focus();
  }

  _hear(k) {
    const round = this._round;
    if (!round) return;
    this._player.setLoop(null);
    this._hearVariant("ducked");
    this._drafts.blind(round.held[k]);
    this._stretches.hear([round.stretch], () => this._pressed(null));
    this._pressed(k);
    round.heard.add(k);
    this._by("blind-tell").disabled = round.heard.size < round.held.length;
  }

  _pressed(k) {
    for (const each of this._card.box.querySelectorAll("[data-listen]")) each.setAttribute("aria-pressed", String(Number(each.dataset.listen) === k));
  }

  async _tell() {
    const marks = [...this._card.box.querySelectorAll("[data-liked]")];
    const liked = marks.filter((each) => each.checked).map((each) => Number(each.dataset.liked));
    const { order } = this._round;
    const told = await saying(() => sendJson(`${this._pageDoc.url}/drafts/blind`, { order, liked }));
    if (!told) return;
    this._end();
    for (const each of this._card.box.querySelectorAll("[data-told]")) each.textContent = order[Number(each.dataset.told)];
    for (const each of marks) each.disabled = true;
    this._by("blind-said").textContent = `${told.said} `;
    const again = document.createElement("button");
    Object.assign(again, { type: "button", id: "blind-begin", className: "btn-line small", textContent: "Another round" });
    this._by("blind-said").append(again);
    this._by("blind-tell").disabled = true;
    again.focus();
  }

  /** The round is over, told or not. */
  _end() {
    this._stretches.hush();
    if (!this._round) return;
    this._round = null;
    this._pressed(null);
    this._drafts.seeing();
  }
}
