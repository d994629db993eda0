// Waveform data of the media of a project, fetched when they are looked at.

import { ask } from "../ground/api.js";
import { Peaks } from "../plain/peaks.js";

const PAIR_BYTES = 4;

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
      this._load(media_id, medium);
    }
    return this._held.get(media_id);
  }

  async _load(media_id, medium) {
    const arrived = () => this.dispatchEvent(new Event("arrived"));
    const fetchPairs = async (start, count) => {
      const range = `bytes=${start * PAIR_BYTES}-${(start + count) * PAIR_BYTES - 1}`;
      const answer = await ask(`/media/${media_id}/peaks`, { headers: { Range: range } });
      return new Int16Array(await answer.arrayBuffer());
    };
    const peaks = new Peaks(medium.level_counts, medium.base_n, fetchPairs, arrived);
    try {
      await peaks.loadCoarse();
      this._held.set(media_id, peaks);
      arrived();
    } catch {
      this._held.delete(media_id);
    }
  }
}
