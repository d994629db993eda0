// Where the focus goes when what had it is gone or let go of it: to the same thing drawn anew, else to its neighbour, else to
// the film. It never stays with the page as a whole.

import { awake } from "./awake.js";

const FOCUSABLE = "button:not(:disabled), a[href], input:not([type=hidden]):not([type=file]):not(:disabled), select:not(:disabled), textarea, summary, [role=slider], [role=separator], [tabindex='0']";

let byKeys = false;
document.addEventListener("keydown", () => (byKeys = true), { capture: true });
document.addEventListener("pointerdown", () => (byKeys = false), { capture: true });

/** Does the person work by keys just now? */
export const usesKeys = () => byKeys;

/** The keys work the film again. */
export const toFilm = () => document.querySelector(".tl-rows")?.focus({ preventScroll: true });

/** After a selection made with the mouse the keys work the film again; made by keys, the focus stays where it is. */
export function release(element) {
  if (!byKeys && document.activeElement === element) toFilm();
}

/** What was typed into a field is sent: the focus stays in it, ready for another value. */
export const done = (field) => field.select();

const seen = (element) => element.isConnected && element.checkVisibility({ visibilityProperty: true }) && !element.closest("[inert]");
const inside = (box) => [...box.querySelectorAll(FOCUSABLE)].filter(seen);

/** What makes a control the same one when it has been drawn anew. */
function signature(element) {
  return element.id || `${element.tagName} ${element.getAttribute("aria-label") ?? element.textContent.trim()} ${element.dataset.act ?? element.dataset.command ?? element.dataset.place ?? element.dataset.clip ?? ""}`;
}

/** The focus to the next part of the page, or the one before: to the first of its controls that can have it. @param {{element: () => HTMLElement, first?: () => HTMLElement | null}[]} parts */
export function toPart(parts, way) {
  const there = parts.filter(({ element }) => seen(element()));
  const at = there.findIndex(({ element }) => element().contains(document.activeElement));
  const { element, first } = there[(at + way + there.length) % there.length];
  (first?.() ?? inside(element())[0] ?? element()).focus();
}

export class FocusKeeper {
  /** @param {() => HTMLElement} film where the focus goes when there is nothing nearer */
  constructor(film) {
    this._film = film;
    this._held = null;
    document.addEventListener("focusin", (event) => this._remember(event.target));
    document.addEventListener("keydown", () => this._look(), { capture: true }); // before the key is anybody's
    awake.add(() => this._look());
  }

  _remember(element) {
    const boxes = [];
    for (let at = element.parentElement; at && at !== document.body; at = at.parentElement) {
      const all = inside(at);
      boxes.push({ box: at, id: at.id, index: all.indexOf(element), last: all.length - 1 });
    }
    this._held = { element, name: signature(element), boxes };
  }

  _look() {
    if (!this._held || document.activeElement !== document.body || !document.hasFocus()) return;
    const { element } = this._held;
    const givenUp = seen(element) && !element.disabled; // on purpose: what had the focus is still there
    const found = givenUp || !byKeys ? null : (this._again() ?? this._film());
    this._held = null;
    const dialog = /** @type {HTMLElement | null} */ (document.querySelector("dialog[open]")); // the focus stays within
    if (dialog) (inside(dialog)[0] ?? dialog).focus();
    else if (found) found.focus({ preventScroll: true });
    else toFilm();
  }

  _again() {
    const { name, boxes } = this._held;
    for (const { box, id, index, last } of boxes) {
      const here = box.isConnected ? box : id ? document.getElementById(id) : null;
      if (!here || !seen(here)) continue;
      const all = inside(here);
      const same = all.find((each) => signature(each) === name);
      if (same) return same;
      if (all.length) return all[Math.min(index === last ? all.length - 1 : Math.max(index, 0), all.length - 1)];
    }
    return null;
  }
}
