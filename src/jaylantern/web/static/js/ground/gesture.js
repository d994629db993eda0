// Changes that belong together become one step of the history: those of one drag, and those of one run of key presses.

const REST_MS = 1200; // a longer rest between presses begins a new step

let count = 0;

/** A name that makes the edits of one gesture one step of the history. */
export function newGesture() {
  count += 1;
  return `${Date.now().toString(36)}-${count}`;
}

/** The gesture of presses that follow each other closely and do the same to the same. */
export class KeyRun {
  constructor(now = () => performance.now()) {
    this._now = now;
    this._what = null;
    this._last = -Infinity;
    this._name = "";
  }

  /** @param {string} what is done, to what; something else is another gesture @returns {string} */
  of(what) {
    const now = this._now();
    if (what !== this._what || now - this._last > REST_MS) this._name = newGesture();
    this._what = what;
    this._last = now;
    return this._name;
  }

  /** Whatever comes now is a new step. */
  end() {
    this._what = null;
  }
}
