// The room the tray has: dragged by its grip or its edge, moved with the arrow keys, folded away, doubled. Remembered in this
// browser for all projects.

const KEPT = "jay-lantern: tray";
const LEAST_PX = 130;
const FOLDS_PX = 70; // dragged lower than this it folds away
const STEP_PX = 24;
const USUAL_PX = 320;
const REST_PX = 330; // what header, transport and a little timeline need

export class TrayRoom {
  /** @param {{tray: HTMLElement, grip: HTMLElement, edge: HTMLElement}} parts `tray`: what is between header and transport */
  constructor({ tray, grip, edge }) {
    this._tray = tray;
    this._grip = grip;
    this._held = { height: null, folded: false, ...read() };
    for (const each of [grip, edge]) {
      each.addEventListener("pointerdown", (event) => this._drag(event));
      each.addEventListener("dblclick", () => this.double());
    }
    grip.addEventListener("keydown", (event) => this._key(event));
    this._show();
  }

  get _height() {
    return this._tray.getBoundingClientRect().height;
  }

  /** Away, or back as it was. */
  fold() {
    this._set({ folded: !this._held.folded });
  }

  /** Twice as high as usual, or as usual again. */
  double() {
    const { height, folded } = this._held;
    if (height !== null) this._set({ height: null, folded: false });
    else this._set({ height: 2 * (folded ? USUAL_PX : this._height), folded: false });
  }

  _drag(event) {
    if (event.button !== 0) return;
    event.preventDefault();
    this._grip.focus({ preventScroll: true });
    const target = event.currentTarget;
    const from = this._held.folded ? 0 : this._height;
    const stop = new AbortController();
    target.setPointerCapture(event.pointerId);
    const move = (moved) => {
      const height = from + moved.clientY - event.clientY;
      if (Math.abs(height - from) > 2) this._set(height < FOLDS_PX ? { folded: true } : { height: Math.max(LEAST_PX, height), folded: false });
    };
    target.addEventListener("pointermove", move, { signal: stop.signal });
    for (const end of ["pointerup", "pointercancel"]) target.addEventListener(end, () => stop.abort(), { signal: stop.signal });
  }

  _key(event) {
    const way = { ArrowUp: -1, ArrowDown: 1 }[event.key];
    if (event.key === "Enter" || event.key === " ") this.fold();
    else if (way) this._set({ height: Math.max(LEAST_PX, (this._held.folded ? 0 : this._height) + way * STEP_PX), folded: false });
    else return;
    event.preventDefault();
    event.stopPropagation();
  }

  _set(values) {
    Object.assign(this._held, values);
    localStorage.setItem(KEPT, JSON.stringify(this._held));
    this._show();
  }

  _show() {
    const { height, folded } = this._held;
    document.body.classList.toggle("tray-folded", folded);
    this._tray.inert = folded;
    if (folded || height === null) document.body.style.removeProperty("--tray-h");
    else document.body.style.setProperty("--tray-h", `clamp(${LEAST_PX}px, ${Math.round(height)}px, calc(100vh - ${REST_PX}px))`);
    this._grip.setAttribute("aria-valuenow", String(folded ? 0 : Math.round(this._height)));
    this._grip.setAttribute("aria-valuetext", folded ? "folded away" : `${Math.round(this._height)} pixels high`);
  }
}

function read() {
  try {
    return JSON.parse(localStorage.getItem(KEPT));
  } catch {
    return null;
  }
}
