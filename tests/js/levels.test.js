// How loud what is heard is played: of two that are to be equally loud the louder is taken down.

import { test } from "node:test";
import { levelOf } from "../../src/jaylantern/web/static/js/plain/levels.js";
import { near } from "./near.js";

const HALF_DB = 20 * Math.log10(0.5); // −6.02 dB
const AS_IT_IS = { variant: "ducked", care_db: 0, matched: false, held: false, drafts_matched: false };

for (const [what, heard, programme, level] of [
  ["as it is", {}, { match_db: HALF_DB, louder_db: 6 }, 1],
  ["plain is not matched unless asked", { variant: "plain" }, { match_db: HALF_DB }, 1],
  ["plain is louder than ducked: it is taken down", { variant: "plain", matched: true }, { match_db: HALF_DB }, 0.5],
  ["and ducked stays", { matched: true }, { match_db: HALF_DB }, 1],
  ["plain is softer: it stays, nothing is raised", { variant: "plain", matched: true }, { match_db: -HALF_DB }, 1],
  ["and ducked is taken down", { matched: true }, { match_db: -HALF_DB }, 0.5],
  ["a stem is played as it is", { variant: "music", matched: true }, { match_db: -HALF_DB }, 1],
  ["a voice as it came is taken down to the treated one", { variant: "bare", care_db: HALF_DB }, {}, 0.5],
  ["and not raised to it", { variant: "bare", care_db: -HALF_DB }, {}, 1],
  ["what is done to voices is no matter to the mix", { care_db: HALF_DB }, {}, 1],
  ["the held draft is louder: it is taken down", { held: true, drafts_matched: true }, { louder_db: -HALF_DB }, 0.5],
  ["and the present one stays", { drafts_matched: true }, { louder_db: -HALF_DB }, 1],
  ["the held draft is softer: it stays", { held: true, drafts_matched: true }, { louder_db: HALF_DB }, 1],
  ["and the present one is taken down", { drafts_matched: true }, { louder_db: HALF_DB }, 0.5],
  ["drafts as they are", { held: true }, { louder_db: -HALF_DB }, 1],
  ["both at once", { variant: "plain", matched: true, held: true, drafts_matched: true }, { match_db: HALF_DB, louder_db: -HALF_DB }, 0.25],
  ["a voice as it came, of a draft", { variant: "bare", care_db: HALF_DB, held: true, drafts_matched: true }, { louder_db: -HALF_DB }, 0.25],
  ["nothing is known yet", { matched: true, drafts_matched: true }, {}, 1],
  ["nothing is known yet of the held draft", { held: true, drafts_matched: true }, {}, 1],
]) {
  test(String(what), () => near(levelOf({ ...AS_IT_IS, .../** @type {any} */ (heard) }, /** @type {any} */ (programme)), Number(level)));
}
