// A card that drops down from a button with a panel of the server in it: history, presets, points. It is the browser's own popover:
// the button opens and closes it, Escape and a press beside it close it, and the focus goes back.

import { whenReleased } from "./press.js";
import { say } from "./said.js";

export class DropCard {
  /** @param {{button: HTMLButtonElement, name: string, url: () => string, shown?: (box: HTMLElement) => void}} how */
  constructor({ button, name, url, shown = () => {} }) {
    this._button = button;
    this._url = url;
    this._shown = shown;
    this._box = document.createElement("div");
    this._box.className = "drop-card card-paper";
    this._box.popover = "auto";
    this._box.setAttribute("role", "dialog");
    this._box.setAttribute("aria-label", name);
    this._box.tabIndex = -1;
    document.getElementById("over").append(this._box);
    button.popoverTargetElement = this._box;
    this._gone = new AbortController();
    addEventListener("resize", () => this.open && this._place(), { signal: this._gone.signal });
    this._box.addEventListener("beforetoggle", (event) => {
      if (event.newState === "open") this._place();
    });
    this._box.addEventListener("toggle", async (event) => {
      if (event.newState !== "open") {
        this._giveBack();
        return;
      }
      await this.fetch();
      if (this.open) this.focus();
    });
  }

  destroy() {
    this._gone.abort();
    this._button.popoverTargetElement = null;
    this._box.remove();
  }

  get open() {
    return this._box.matches(":popover-open");
  }

  get box() {
    return this._box;
  }

  toggle() {
    if (!this.open) this._button.focus({ preventScroll: true }); // where the focus goes back to
    this._box.togglePopover();
  }

  close() {
    this._box.hidePopover();
  }

  /** Closed: the focus goes back to the button, unless something else was pressed meanwhile. */
  _giveBack() {
    const at = document.activeElement;
    if (at === document.body || at?.matches(".tl-rows") || this._box.contains(at)) this._button.focus({ preventScroll: true });
  }

  _place() {
    const at = this._button.getBoundingClientRect();
    const { offsetWidth, offsetHeight } = this._box;
    const [right, top] = [innerWidth - at.right - 40, at.bottom + 6]; // and nowhere beyond the edges
    this._box.style.top = `${Math.max(8, Math.min(top, innerHeight - offsetHeight - 8))}px`;
    this._box.style.right = `${Math.max(8, Math.min(right, innerWidth - offsetWidth - 8))}px`;
  }

  /** The focus to what is current in it, else to its first control, else to the card. */
  focus() {
    (this._box.querySelector("[aria-current]") ?? this._box.querySelector("button:not(:disabled), input, select") ?? this._box).focus();
  }

  async fetch() {
    const answer = await fetch(this._url(), { headers: { "HX-Request": "true" } });
    if (answer.ok) this.fill(await answer.text());
    else say(`This panel could not be fetched (${answer.status}).`, { trouble: true });
  }

  /** What is in the card now; not under a pointer that is just pressing something in it. @param {string} text */
  fill(text) {
    whenReleased(this._box, () => this._fill(text));
  }

  _fill(text) {
    const { scrollTop } = this._box;
    const held = this._box.contains(document.activeElement);
    this._box.innerHTML = text;
    this._box.scrollTop = scrollTop;
    this._shown(this._box);
    if (this.open) this._place(); // what is in it may have made it wider
    if (held) this.focus(); // what had the focus is gone: it stays in the card
  }
}
