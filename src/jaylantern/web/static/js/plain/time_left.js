// Pure: how far a piece of work is and how long it will take, from the shares it has told of.

const SEEN_MS = 1500; // before that there is nothing to reckon with
const LEAST = 0.02;

/** Words for a share and what is left, as shares come in. */
export class TimeLeft {
  constructor() {
    this._first = null; // the first share seen, and when
  }

  /** @param {number} share 0 to 1 @param {number} now_ms @returns {string} "43 % · 12 s left"; without the time while it is not known */
  words(share, now_ms) {
    if (!this._first || share < this._first.share) this._first = { share, now_ms };
    const [done, took_ms] = [share - this._first.share, now_ms - this._first.now_ms];
    const percent = `${Math.floor(100 * Math.min(Math.max(share, 0), 1))} %`;
    if (took_ms < SEEN_MS || done < LEAST) return percent;
    return `${percent} · ${inWords((took_ms * (1 - share)) / done / 1000)} left`;
  }
}

function inWords(seconds) {
  if (seconds < 90) return `${Math.max(1, Math.round(seconds))} s`;
  if (seconds < 5400) return `${Math.round(seconds / 60)} min`;
  return `${(seconds / 3600).toFixed(1)} h`;
}
