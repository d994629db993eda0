// Pure: which part of the timeline is in view. Positions are CSS pixels, times are samples.

const CLOSEST_N_PER_PX = 48;
const BEYOND = 1.12;
const LEAST_N = 48000 * 10;

export class Viewport {
  constructor() {
    this.start_n = 0;
    this.n_per_px = 4800;
    this.width = 800;
    this.length_n = LEAST_N;
    this.fitted = true;
  }

  get stop_n() {
    return this.start_n + this.width * this.n_per_px;
  }

  x(time_n) {
    return (time_n - this.start_n) / this.n_per_px;
  }

  time(x) {
    return this.start_n + x * this.n_per_px;
  }

  get widest() {
    return (Math.max(this.length_n, LEAST_N) * BEYOND) / this.width;
  }

  /** The programme's length has changed, or the width of the page. */
  resize(width, length_n) {
    this.width = Math.max(width, 50);
    this.length_n = Math.max(length_n, LEAST_N);
    if (this.fitted) this.fit();
    else this._keep();
  }

  /** All of it. */
  fit() {
    this.n_per_px = (this.length_n * 1.002) / this.width;
    this.start_n = 0;
    this.fitted = true;
  }

  /** A stretch with a little room on both sides. */
  show(start_n, stop_n) {
    const room_n = Math.max((stop_n - start_n) * 0.05, 480);
    this.n_per_px = Math.min(Math.max((stop_n - start_n + 2 * room_n) / this.width, CLOSEST_N_PER_PX), this.widest);
    this.start_n = start_n - room_n;
    this.fitted = false;
    this._keep();
  }

  /** Zoom by a factor (below 1: closer) around a position that stays where it is. */
  zoom(factor, x) {
    const fixed = this.time(x);
    this.n_per_px = Math.min(Math.max(this.n_per_px * factor, CLOSEST_N_PER_PX), this.widest);
    this.start_n = fixed - x * this.n_per_px;
    this.fitted = false;
    this._keep();
  }

  scroll(px) {
    this.start_n += px * this.n_per_px;
    this.fitted = false;
    this._keep();
  }

  /** Bring a time into view if it is not, with some room before it. */
  reveal(time_n) {
    if (time_n >= this.start_n && time_n < this.stop_n) return false;
    this.start_n = time_n - this.width * this.n_per_px * 0.15;
    this.fitted = false;
    this._keep();
    return true;
  }

  _keep() {
    this.n_per_px = Math.min(this.n_per_px, this.widest);
    const last = Math.max(this.length_n * BEYOND - this.width * this.n_per_px, 0);
    this.start_n = Math.min(Math.max(this.start_n, 0), last);
  }
}

const STEPS_S = [0.01, 0.02, 0.05, 0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 30, 60, 120, 300, 600, 1200, 1800, 3600];

/** Step of the ruler in seconds so that its words stand at least `room` pixels apart. */
export function rulerStep(n_per_px, rate, room = 84) {
  const least = (room * n_per_px) / rate;
  return STEPS_S.find((step) => step >= least) ?? 3600;
}
