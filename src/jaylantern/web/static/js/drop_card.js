// A card that drops down from a button with a panel of the server in it: history, presets, points.

import { say } from "./said.js";

export class DropCard {
  /** @param {{button: HTMLElement, name: string, url: () => string, shown?: (box: HTMLElement) => void}} how */
  constructor({ button, name, url, shown = () => {} }) {
    Object.assign(this, { _button: button, _url: url, _shown: shown });
    this._box = document.createElement("div");
    this._box.className = "drop-card card-paper";
    this._box.setAttribute("role", "dialog");
    this._box.setAttribute("aria-label", name);
    this._box.hidden = true;
    this._box.tabIndex = -1;
    document.getElementById("over").append(this._box);
    this._stop = new AbortController();
    const options = { signal: this._stop.signal };
    button.addEventListener("click", () => this.toggle(), options);
    document.addEventListener("pointerdown", (event) => {
      if (this.open && !this._box.contains(event.target) && !this._button.contains(event.target)) this._box.hidden = true;
    }, options);
    document.addEventListener("keydown", (event) => {
      if (event.key !== "Escape" || !this.open || document.querySelector("dialog[open], .menu")) return;
      event.preventDefault();
      event.stopPropagation();
      this.close();
    }, { ...options, capture: true });
  }

  destroy() {
    this._stop.abort();
    this._box.remove();
  }

  get open() {
    return !this._box.hidden;
  }

  get box() {
    return this._box;
  }

  async toggle() {
    if (this.open) {
      this.close();
      return;
    }
    const at = this._button.getBoundingClientRect();
    this._box.style.top = `${at.bottom + 6}px`;
    this._box.style.right = `${Math.max(8, innerWidth - at.right - 40)}px`;
    this._box.hidden = false;
    await this.fetch();
    this.focus();
  }

  /** The focus to what is current in it, else to its first control, else to the card. */
  focus() {
    (this._box.querySelector("[aria-current]") ?? this._box.querySelector("button:not(:disabled), input, select") ?? this._box).focus();
  }

  close() {
    this._box.hidden = true;
    this._button.focus();
  }

  async fetch() {
    const answer = await fetch(this._url(), { headers: { "HX-Request": "true" } });
    if (answer.ok) this.fill(await answer.text());
    else say(`This panel could not be fetched (${answer.status}).`, { trouble: true });
  }

  fill(text) {
    const { scrollTop } = this._box;
    const held = this._box.contains(document.activeElement);
    this._box.innerHTML = text;
    this._box.scrollTop = scrollTop;
    this._shown(this._box);
    if (held) this.focus(); // what had the focus is gone: it stays in the card
  }
}
