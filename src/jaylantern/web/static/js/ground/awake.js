// Work done every frame while something moves or somebody is at it, ten times a second else: a page that stands open all
// day costs next to nothing.

const CALM_FRAMES = 6; // after the last that moved, or somebody was at it
const REST_MS = 100;
const AT_IT = ["pointerdown", "pointermove", "pointerup", "wheel", "keydown", "keyup", "input", "focusin", "drop", "htmx:afterSwap"];

export class Awake {
  /** @param {{ask: (work: () => void) => unknown, later: (work: () => void, ms: number) => any, forget: (number: any) => void}} clock */
  constructor({ ask, later, forget }) {
    this._ask = ask;
    this._later = later;
    this._forget = forget;
    /** @type {(() => boolean | void)[]} */
    this._works = [];
    this._calm = 0;
    this._asked = false;
    this._rest = null;
    this._frame = this._frame.bind(this);
  }

  /**
   * @param {() => boolean | void} work done every frame; answers whether something still moves
   * @returns {() => void} what ends it
   */
  add(work) {
    this._works.push(work);
    this.wake();
    return () => {
      this._works = this._works.filter((each) => each !== work);
    };
  }

  /** Something has changed, or somebody is at it. */
  wake() {
    this._calm = 0;
    this._forget(this._rest);
    this._next();
  }

  _next() {
    if (this._asked) return;
    this._asked = true;
    this._ask(this._frame);
  }

  _frame() {
    this._asked = false;
    let moves = false;
    for (const work of this._works) moves = work() === true || moves;
    this._calm = moves ? 0 : this._calm + 1;
    if (this._calm < CALM_FRAMES) this._next();
    else this._rest = this._later(() => this._next(), REST_MS);
  }
}

/** The page's own. */
export const awake = new Awake({
  ask: (work) => requestAnimationFrame(work),
  later: (work, ms) => setTimeout(work, ms),
  forget: (number) => clearTimeout(number),
});

if (globalThis.document) {
  for (const type of AT_IT) window.addEventListener(type, () => awake.wake(), { capture: true, passive: true });
}
