// How far clips that are dragged go, and what becomes of them.

import assert from "node:assert/strict";
import { test } from "node:test";
import * as drag from "../../src/jaylantern/web/static/js/plain/drags.js";

const S = 48_000;
const clip = (more = {}) => ({ id: 1, media_id: 7, start_n: 10 * S, offset_n: 2 * S, length_n: 5 * S, fade_in_n: S, fade_out_n: 2 * S, ...more });
const MEDIA = { 7: { length_n: 10 * S }, 8: { length_n: 6 * S } };
const FRAME_N = 1920; // 25 a second

test("the edges of clips are their beginnings and ends", () => assert.deepEqual(drag.edgesOf([clip(), clip({ start_n: 0 })]), [10 * S, 15 * S, 0, 5 * S]));

for (const [what, clips, found, how, by_n] of [
  ["by what is wished", [clip()], { by_n: 1001, at_n: null }, {}, 1001],
  ["no further back than the film's beginning", [clip(), clip({ start_n: 3 * S })], { by_n: -5 * S, at_n: null }, {}, -3 * S],
  ["a picture from frame to frame, to the nearest", [clip()], { by_n: 1001, at_n: null }, { picture: clip() }, 1920],
  ["and back to where it was", [clip()], { by_n: 900, at_n: null }, { picture: clip() }, 0],
  ["a picture onto a place it snaps to, frame or not", [clip()], { by_n: 1001, at_n: 10 * S + 1001 }, { picture: clip() }, 1001],
  ["a picture freely", [clip()], { by_n: 1001, at_n: null }, { picture: clip(), free: true }, 1001],
]) {
  test(`moved ${what}`, () => {
    const args = { picture: undefined, frame_n: FRAME_N, free: false, .../** @type {any} */ (how) };
    assert.equal(drag.movedBy(/** @type {any} */ (clips), /** @type {any} */ (found), args), by_n);
  });
}

test("slipped no further than there is of any medium", () => {
  const clips = [clip(), clip({ media_id: 8, offset_n: S / 2 })];
  for (const [wanted, by_n] of [[100.4, 100], [100.6, 101], [-3 * S, -S / 2], [9 * S, S / 2], [-100, -100]]) assert.equal(drag.slippedBy(clips, MEDIA, wanted), by_n);
});

for (const [what, clips, edge, room] of [
  ["a beginning goes back to that of its medium, on to a hundredth before the end", [clip()], "start", [-2 * S, 5 * S - 480]],
  ["and not before the film's", [clip({ start_n: S })], "start", [-S, 5 * S - 480]],
  ["an end goes to the end of its medium", [clip()], "stop", [480 - 5 * S, 3 * S]],
  ["of several the least room counts", [clip(), clip({ length_n: 7 * S }), clip({ length_n: S })], "stop", [480 - S, S]],
  ["at the beginning, too", [clip(), clip({ offset_n: S, length_n: 2 * S })], "start", [-S, 2 * S - 480]],
]) {
  test(String(what), () => assert.deepEqual(drag.trimRoom(/** @type {any} */ (clips), MEDIA, /** @type {any} */ (edge)), room));
}

test("what is trimmed at its beginning shows what it showed, later", () => {
  assert.deepEqual(drag.trimmed(clip(), "start", 100), { start_n: 10 * S + 100, offset_n: 2 * S + 100, length_n: 5 * S - 100 });
  assert.deepEqual(drag.trimmed(clip(), "stop", -100), { length_n: 5 * S - 100 });
});

for (const [end, by_n, length_n] of [
  ["fade_in", 100, S + 100], ["fade_in", -2 * S, 0], ["fade_in", 9 * S, 3 * S],
  ["fade_out", 100, 2 * S - 100], ["fade_out", 3 * S, 0], ["fade_out", -9 * S, 4 * S],
]) {
  test(`the corner of a ${end} shifted by ${by_n}`, () => assert.equal(drag.fadeLength(clip(), /** @type {any} */ (end), Number(by_n)), length_n));
}

test("corners lie a fade within the clip", () => {
  assert.deepEqual([drag.cornerOf(clip(), "fade_in"), drag.cornerOf(clip(), "fade_out")], [11 * S, 13 * S]);
});
