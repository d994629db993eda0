// Pure: cues [start_n, stop_n, text] in order of their beginnings; they may overlap.

/** The cues that share a moment with [start_n, stop_n). @param {[number, number, string][]} cues */
export function cuesWithin(cues, start_n, stop_n) {
  const found = [];
  for (const cue of cues) {
    if (cue[0] >= stop_n) break;
    if (cue[1] > start_n) found.push(cue);
  }
  return found;
}

/** The cue that is on at a time, of several the one that began last; null for none. */
export function cueAt(cues, time_n) {
  return cuesWithin(cues, time_n, time_n + 1).at(-1) ?? null;
}
