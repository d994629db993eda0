// Waveform data: pyramids of minima and maxima, fetched once per medium, read at any scale. Nothing is drawn here.

import { ask } from "./api.js";

export class Peaks {
  /** @param {Int16Array} pairs all levels, finest first @param {number[]} counts pairs per level */
  constructor(pairs, counts, base_n) {
    this.levels = [];
    let from = 0;
    counts.forEach((count, k) => {
      this.levels.push({ n: base_n * 2 ** k, pairs: pairs.subarray(from * 2, (from + count) * 2) });
      from += count;
    });
  }

  /**
   * Minimum and maximum of every pixel column, −1 … 1, as one Float32Array [low, high, low, high, …].
   * @param {number} start_n media time of the left edge of column 0
   */
  columns(start_n, n_per_px, count) {
    const out = new Float32Array(count * 2);
    const level = this.levels.findLast((each) => each.n <= n_per_px) ?? this.levels[0];
    if (!level) return out;
    const total = level.pairs.length / 2;
    for (let i = 0; i < count; i += 1) {
      const first = Math.max(0, Math.floor((start_n + i * n_per_px) / level.n));
      const last = Math.min(total, Math.max(first + 1, Math.ceil((start_n + (i + 1) * n_per_px) / level.n)));
      if (first >= last) continue;
      let low = 32767;
      let high = -32767;
      for (let k = first; k < last; k += 1) {
        if (level.pairs[2 * k] < low) low = level.pairs[2 * k];
        if (level.pairs[2 * k + 1] > high) high = level.pairs[2 * k + 1];
      }
      out[2 * i] = low / 32767;
      out[2 * i + 1] = high / 32767;
    }
    return out;
  }
}

/** Peaks by medium number. Events: "arrived" when some have come. */
export class PeaksShelf extends EventTarget {
  constructor() {
    super();
    this._held = new Map();
  }

  /** @returns {Peaks | null} null while they are on their way, or where there is no sound */
  get(media_id, medium) {
    if (!medium.sound_n) return null;
    if (!this._held.has(media_id)) {
      this._held.set(media_id, null);
      this._fetch(media_id, medium);
    }
    return this._held.get(media_id);
  }

  async _fetch(media_id, medium) {
    try {
      const bytes = await (await ask(`/media/${media_id}/peaks`)).arrayBuffer();
      this._held.set(media_id, new Peaks(new Int16Array(bytes), medium.level_counts, medium.base_n));
      this.dispatchEvent(new Event("arrived"));
    } catch {
      this._held.delete(media_id);
    }
  }
}
