// Pure: which passage stays chosen when the passages have changed. What a person had in hand is known by where it lies, not by its number.

/** @typedef {{start_n: number, stop_n: number}} Stretch */

const shared = (a, b) => Math.min(a.stop_n, b.stop_n) - Math.max(a.start_n, b.start_n);

/**
 * @param {Stretch | null} held what was in hand: a passage, or a stretch that was said to be no speech
 * @param {{passages: Stretch[], set_aside: [number, number][]}} doc
 * @returns {{passage: number | null, aside: Stretch | null}} the passage that shares most with it; else what of it is set aside;
 *   else the nearest passage. With nothing in hand the first passage stands for all.
 */
export function followed(held, { passages, set_aside }) {
  if (!held) return { passage: passages.length ? 0 : null, aside: null };
  const most = best(passages, (each) => shared(each, held));
  if (most !== null && shared(passages[most], held) > 0) return { passage: most, aside: null };
  const aside = set_aside.map(([start_n, stop_n]) => ({ start_n, stop_n })).find((each) => shared(each, held) > 0);
  return aside ? { passage: null, aside } : { passage: most, aside: null };
}

/** The place of the item with the highest value, the first of equal ones; null where there is none. */
function best(items, value) {
  let found = null;
  items.forEach((each, i) => {
    if (found === null || value(each) > value(items[found])) found = i;
  });
  return found;
}
