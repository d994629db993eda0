// Pure: figures of the places of a map as light, and places as steps.

/** How bright each figure is among all of them, 0 to 1; brighter is more, or less where less is better. All alike: half lit.
 *  @param {(number | null)[]} figures null: nothing to tell @param {boolean} more is more of it brighter */
export function brightness(figures, more) {
  const known = figures.filter((each) => each !== null && each !== undefined);
  const [low, high] = [Math.min(...known), Math.max(...known)];
  return (value) => {
    if (value === null || value === undefined) return more ? 1 : 0;
    if (low === high) return 0.5;
    const share = (value - low) / (high - low);
    return more ? share : 1 - share;
  };
}

/** Where a value lies among values in order, in steps from the first; at the ends where it lies beyond them. */
export function spread(values, value) {
  if (value <= values[0]) return 0;
  for (let k = 1; k < values.length; k += 1) {
    if (value <= values[k]) return k - 1 + (value - values[k - 1]) / (values[k] - values[k - 1]);
  }
  return values.length - 1;
}

/** The next place that way; from between two places, the nearer one that lies that way. @returns {number[]} */
export function stepped(present, way, counts) {
  return present.map((at, k) => {
    const near = Math.round(at * 1e6) / 1e6;
    const next = way[k] > 0 ? Math.floor(near) + 1 : way[k] < 0 ? Math.ceil(near) - 1 : Math.round(near);
    return Math.min(Math.max(next, 0), counts[k] - 1);
  });
}
