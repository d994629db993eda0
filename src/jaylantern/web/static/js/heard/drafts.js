// Two drafts: which one is heard, and what is drawn of the one that is held. The group of letters stands beside the clock
// while a draft is held.

import { getJson } from "../ground/api.js";
import { say, saying } from "../ground/said.js";

const other = (letter) => (letter === "A" ? "B" : "A");

/** Events: "change" when another draft is heard, or what is known of the held one has changed. */
export class Drafts extends EventTarget {
  /** @param {{pageDoc: any, player: any}} parts */
  constructor({ pageDoc, player }) {
    super();
    this._pageDoc = pageDoc;
    this._player = player;
    this._box = document.getElementById("hear-draft");
    this._blind = false;
    this.matched = false; // are both played equally loud?
    this._box.addEventListener("click", (event) => event.target.dataset.draft && this.hear(event.target.dataset.draft));
    pageDoc.addEventListener("change", ({ detail }) => this._changed(detail));
  }

  /** The letter of the draft that is held, null where none is. */
  get held() {
    return this._pageDoc.doc?.held ?? null;
  }

  /** The letter of the one that is heard. */
  get heard() {
    return this.held && (this._player.held ? this.held : other(this.held));
  }

  /** Hear one of the two. @param {string} letter */
  hear(letter) {
    if (!this.held) return;
    this._play(letter === this.held);
    say(letter === this.held ? `Draft ${letter} is heard, as it was held.` : `Draft ${letter} is heard: what is set now.`);
  }

  /** Hear the other one. */
  turn() {
    if (this.held) this.hear(other(this.heard));
    else say("No draft is held yet. Hold one under Duck, Drafts.");
  }

  match(matched) {
    this.matched = matched;
    this._play(this._player.held);
  }

  /** While a blind round lasts nobody is told which one is heard. */
  blind(held) {
    this._blind = true;
    this._player.setDraft(held, true);
    this._show();
  }

  /** The blind round is over: what is set now is heard. */
  seeing() {
    if (!this._blind) return;
    this._blind = false;
    this._play(false);
  }

  _play(held) {
    this._player.setDraft(held, this.matched);
    this._show();
    this.dispatchEvent(new Event("change"));
  }

  _changed({ fresh, mine }) {
    if (!fresh) return this._show();
    if (!this.held && Object.keys(this._pageDoc.held_curves).length) this._pageDoc.hold({});
    if (this._player.held && (mine || !this.held)) {
      this._blind = false;
      this._play(false); // what is changed is what is set now: that is heard
    }
    this._show();
    if (this.held) requestAnimationFrame(() => setTimeout(() => this._fetch()));
  }

  async _fetch() {
    const found = await saying(() => getJson(`${this._pageDoc.url}/drafts/held`));
    if (found?.revision !== this._pageDoc.doc.revision) return;
    const levelled = this._pageDoc.held_louder_db !== found.louder_db && this._player.drafts_matched;
    this._pageDoc.hold(found);
    if (levelled) this._player.refresh();
    this.dispatchEvent(new Event("change"));
  }

  _show() {
    this._box.hidden = !this.held;
    this._box.classList.toggle("blind", this._blind);
    for (const button of this._box.querySelectorAll("button")) {
      const { draft } = button.dataset;
      button.disabled = this._blind;
      button.setAttribute("aria-pressed", String(!this._blind && draft === this.heard));
      button.title = draft === this.held ? `Hear draft ${draft}, which is held` : `Hear draft ${draft}, which is set now`;
    }
  }
}
