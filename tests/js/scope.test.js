import assert from "node:assert/strict";
import { test } from "node:test";

globalThis.document ??= /** @type {any} */ (Object.assign(new EventTarget(), { querySelector: () => ({ content: "" }), getElementById: () => null }));
globalThis.window ??= /** @type {any} */ (new EventTarget());
globalThis.requestAnimationFrame ??= /** @type {any} */ (() => 0);
const { Scope } = await import("../../src/jaylantern/web/static/js/trays/scope.js");

const FILM = { amount_db: -14, attack_ms: 350, duck_by: "amount", wish_lu: 10, clear_in: "loudness" };
const pair = (upper, values) => ({ upper, lower: "music", upper_word: upper, lower_word: "music", own: values, settings: { ...FILM, ...values } });

/** A scope over a film of three passages: under talk as the film says, under narration by its pair, one with values of its own. */
function scope() {
  const sent = [];
  const pageDoc = Object.assign(new EventTarget(), {
    doc: {
      settings: FILM,
      over: "dialogue>music",
      pairs: [pair("narration", { amount_db: -20 }), pair("dialogue", {})],
      passages: [
        { dip: { amount_db: -14 }, pair: "dialogue>music" },
        { dip: { amount_db: -20 }, pair: "narration>music" },
        { dip: { amount_db: -6 }, pair: "narration>music", own: { amount_db: -6 } },
      ],
    },
    do: (name, values) => sent.push([name, values]),
  });
  const selection = Object.assign(new EventTarget(), { passage: 0 });
  return { scope: new Scope({ pageDoc, selection }), selection, pageDoc, sent };
}

for (const [kind, passage, amount_db, own] of [
  ["all", 0, -14, false],
  ["narration>music", 0, -20, true],
  ["dialogue>music", 0, -14, false],
  ["passage", 0, -14, false],
  ["passage", 1, -20, false], // in force by its pair: one key for more ducking goes on from there
  ["passage", 2, -6, true],
]) {
  test(`set for ${kind}, passage ${passage}: ${amount_db} dB is in force`, () => {
    const { scope: made, selection } = scope();
    selection.passage = Number(passage);
    made.set(kind);
    assert.equal(made.value("amount_db"), amount_db);
    assert.equal(made.isOwn("amount_db"), own);
    assert.equal(made.value("attack_ms"), 350);
  });
}

test("a film with one pair names it once, for all passages", () => {
  const { scope: made, pageDoc } = scope();
  pageDoc.doc.pairs = [pair("dialogue", { amount_db: -9 })];
  pageDoc.doc.passages = [{ dip: { amount_db: -9 } }];
  made.set("passage");
  assert.equal(made.value("amount_db"), -9);
});

test("a passage under a pair by clearance is by clearance, and says how deep that is where an amount is asked for", () => {
  const { scope: made, pageDoc, selection } = scope();
  pageDoc.doc.pairs[0] = pair("narration", { duck_by: "clearance", wish_lu: 12 });
  pageDoc.doc.passages[1].dip.amount_db = -17.3;
  selection.passage = 1;
  made.set("passage");
  assert.deepEqual([made.duckBy, made.value("wish_lu"), made.value("amount_db")], ["clearance", 12, -17.5]);
});

test("what is set goes to what it is set for", () => {
  const { scope: made, selection, sent } = scope();
  selection.passage = 1;
  for (const kind of ["all", "passage", "narration>music"]) {
    made.set(kind);
    made.send({ amount_db: -10 });
  }
  assert.deepEqual(sent.map(([name]) => name), ["set_settings", "set_passage", "set_pair"]);
  assert.deepEqual(sent[1][1], { index: 1, own: { amount_db: -10 }, gesture: undefined });
});
