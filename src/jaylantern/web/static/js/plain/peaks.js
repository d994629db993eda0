// Waveform data: pyramids of minima and maxima, read at any scale. The coarse levels of a medium come at once, the fine
// ones in pieces when they are looked at; until a piece is there the next coarser level stands in. Nothing is drawn here.

const PIECE_PAIRS = 65536;

export class Peaks {
  /**
   * @param {number[]} counts pairs per level, finest first
   * @param {(start: number, count: number) => Promise<Int16Array>} fetchPairs reads pairs by their place in the file
   * @param {() => void} arrived called when more has come
   */
  constructor(counts, base_n, fetchPairs, arrived) {
    this._fetch = fetchPairs;
    this._arrived = arrived;
    let start = 0;
    this.levels = counts.map((count, k) => {
      const level = { n: base_n * 2 ** k, count, start, pieces: new Map() };
      start += count;
      return level;
    });
  }

  /** Fetch all levels that fit into one piece each, in one go. */
  async loadCoarse() {
    const coarse = this.levels.filter((level) => level.count <= PIECE_PAIRS);
    const from = coarse[0].start;
    const pairs = await this._fetch(from, coarse.reduce((sum, level) => sum + level.count, 0));
    for (const level of coarse) {
      level.pieces.set(0, pairs.subarray((level.start - from) * 2, (level.start - from + level.count) * 2));
    }
  }

  /**
   * Minimum and maximum of every pixel column, −1 … 1, as one Float32Array [low, high, low, high, …].
   * @param {number} start_n media time of the left edge of column 0
   */
  columns(start_n, n_per_px, count) {
    const out = new Float32Array(count * 2);
    const wanted = Math.max(0, this.levels.findLastIndex((each) => each.n <= n_per_px));
    const pair = [0, 0];
    for (let i = 0; i < count; i += 1) {
      const [from_n, to_n] = [start_n + i * n_per_px, start_n + (i + 1) * n_per_px];
      let k = wanted;
      while (k < this.levels.length && !this._read(this.levels[k], from_n, to_n, pair, k === wanted)) k += 1;
      out[2 * i] = pair[0] / 32767;
      out[2 * i + 1] = pair[1] / 32767;
    }
    return out;
  }

  /** Extremes of [from_n, to_n) at a level into `pair`; false where a piece of it is missing, which `fetch` sends for. */
  _read(level, from_n, to_n, pair, fetch) {
    pair[0] = 0;
    pair[1] = 0;
    const first = Math.max(0, Math.floor(from_n / level.n));
    const last = Math.min(level.count, Math.max(first + 1, Math.ceil(to_n / level.n)));
    if (first >= last || to_n <= 0) return true;
    let low = 32767;
    let high = -32767;
    for (let at = first; at < last; at += 1) {
      const number = Math.floor(at / PIECE_PAIRS);
      if (fetch) this._sendFor(level, number);
      const pairs = level.pieces.get(number);
      if (!pairs) return false;
      const inside = (at % PIECE_PAIRS) * 2;
      if (pairs[inside] < low) low = pairs[inside];
      if (pairs[inside + 1] > high) high = pairs[inside + 1];
    }
    pair[0] = low;
    pair[1] = high;
    return true;
  }

  _sendFor(level, number) {
    if (level.pieces.has(number)) return;
    level.pieces.set(number, null);
    const from = number * PIECE_PAIRS;
    this._fetch(level.start + from, Math.min(PIECE_PAIRS, level.count - from)).then(
      (pairs) => {
        level.pieces.set(number, pairs);
        this._arrived();
      },
      () => level.pieces.delete(number),
    );
  }
}
