// Where the pieces of tailored music lie on the ribbon: the recording runs from left to right, and the ribbon goes down a tier
// wherever something is said again.

/**
 * @param {number[][]} pieces [from_n, to_n, start_n, length_n] in the order they are heard
 * @returns {{tiers: number, at: number[]}} how many tiers there are, and the tier of each piece
 */
export function tiersOf(pieces) {
  const at = [];
  let tier = 0;
  pieces.forEach((piece, k) => {
    if (k && piece[0] < pieces[k - 1][1]) tier += 1;
    at.push(tier);
  });
  return { tiers: tier + 1, at };
}

/** The piece that is heard at a time of the tailored music, and the place of the recording it plays there. */
export function placeOf(pieces, at_n) {
  const k = Math.max(0, pieces.findLastIndex((piece) => piece[2] <= at_n));
  const [from_n, to_n, start_n, length_n] = pieces[k];
  return { piece: k, time_n: from_n + ((at_n - start_n) * (to_n - from_n)) / length_n };
}
