// Pure: what is chosen after a step back or forth, and whose step it is.

/**
 * The clips chosen after a step: what was chosen before it was made; where that is not known, what came back with it, else what
 * is chosen now. Only what is there can be chosen. Null: the choice stays as it is.
 * @param {{known: number[] | null, was: number[], there: number[], chosen: number[]}} clips `known`: chosen before the step was
 *   made; `was`, `there`: all clips before and after it; `chosen`: now
 * @returns {number[] | null}
 */
export function chosenAfter({ known, was, there, chosen }) {
  const before = new Set(was);
  const fresh = there.filter((id) => !before.has(id));
  const back = (known ?? (fresh.length ? fresh : chosen)).filter((id) => there.includes(id));
  return back.length || known ? back : null;
}

/** Was a step made in another window? @param {number | null} id @param {number[][]} others steps made there, [from, to] by number */
export const madeElsewhere = (id, others) => id !== null && others.some(([from, to]) => from <= id && id <= to);
