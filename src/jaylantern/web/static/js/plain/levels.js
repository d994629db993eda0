// Pure: how loud what is heard is played. Of two that are to be equally loud the louder is taken down; nothing is raised.

import { amplitude } from "./units.js";

/** Amplitude of a gain that may only take down. */
const down = (gain_db) => amplitude(Math.min(0, gain_db));

/**
 * @typedef {{variant: string, care_db: number, matched: boolean, held: boolean, drafts_matched: boolean}} Heard `care_db`: by
 *   how much louder voices are with what is done to them; `matched`: is plain as loud as ducked; `held`: is it the draft that is
 *   held, not the present one; `drafts_matched`: are both drafts equally loud
 * @param {Heard} heard
 * @param {{match_db?: number, louder_db?: number}} programme `match_db`: what brings plain to the loudness of ducked;
 *   `louder_db`: the held draft than the present one
 * @returns {number} amplitude, 1 as it is
 */
export function levelOf({ variant, care_db, matched, held, drafts_matched }, { match_db = 0, louder_db = 0 }) {
  const drafted = drafts_matched ? down(held ? -louder_db : louder_db) : 1;
  if (variant === "bare") return drafted * down(care_db); // as loud as with what is done to voices
  if (matched && variant === "plain") return drafted * down(match_db);
  if (matched && variant === "ducked") return drafted * down(-match_db);
  return drafted;
}
