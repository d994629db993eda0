// What is drawn, in words; times and figures as a person reads them.

import assert from "node:assert/strict";
import { test } from "node:test";
import { amplitude, clock, figure } from "../../src/jaylantern/web/static/js/plain/units.js";
import { clipNotes, dipWords, laneWords, markerWords, rulerWords } from "../../src/jaylantern/web/static/js/plain/words.js";
import { near } from "./near.js";

const S = 48_000;

for (const [time_n, decimals, text] of [
  [0, 3, "00:00.000"], [S * 62.5, 3, "01:02.500"], [S * 3600, 1, "1:00:00.0"], [S * 59.96, 1, "01:00.0"], [-5, 2, "00:00.00"], [S * 7, 0, "00:07"],
]) {
  test(`${time_n} samples read ${text}`, () => assert.equal(clock(Number(time_n), Number(decimals)), text));
}

test("figures have a true minus sign; 20 dB are ten times the amplitude", () => {
  assert.equal(figure(-3.14159, 2), "−3.14");
  near(amplitude(20), 10);
  near(amplitude(-6), 0.501187);
});

test("the ruler says its length, its markers and its range", () => {
  const doc = { length_n: 60 * S, markers: [{ name: "Storm", time_n: 5 * S }], in_n: 2 * S, out_n: null };
  assert.equal(rulerWords(doc), "Time from 0 to 01:00.0: 1 marker; Storm at 00:05.0; in 00:02.0, out not set");
  assert.equal(rulerWords({ ...doc, markers: [], in_n: null }), "Time from 0 to 01:00.0");
});

test("a lane says what its clips are and how far they give way", () => {
  const doc = { passages: [{}, {}], curves: { bed: { time_n: [0, 1, 2], gain_db: [0, -14, 0] } } };
  assert.equal(laneWords({ name: "Film", kind: "picture", clips: [{}, {}] }, doc), "Pictures of Film: 2 clips");
  assert.equal(laneWords({ name: "Talk", kind: "sound", shown_tag: "dialogue", speaks: true, clips: [{}] }, doc), "Sound of Talk: 1 clip, dialogue; 2 passages");
  const bed = { name: "Bed", kind: "sound", shown_tag: "music", speaks: false, clips: [{ curve: "bed" }, { curve: "bed" }] };
  assert.equal(laneWords(bed, doc), "Sound of Bed: 2 clips, music; gain curve of 3 points, down to −14.0 dB");
});

test("a clip says what it lacks and what of it is not as usual", () => {
  const usual = { muted: false, gain_db: 0, channels: "both", bystander: false, trigger: null };
  assert.deepEqual(clipNotes(usual, { sound_n: 5 }), []);
  assert.deepEqual(clipNotes(usual, { sound_n: 0, sound_word: "none" }), ["no sound"]);
  assert.deepEqual(clipNotes(usual, { sound_n: 0, sound_word: "silent" }), ["its sound is silent"]);
  assert.deepEqual(clipNotes(usual, { sound_n: 0, missing: true }), ["file missing"]);
  const unusual = { muted: true, gain_db: -3, channels: "left", bystander: true, trigger: "level" };
  assert.deepEqual(clipNotes(unusual, { sound_n: 5 }), ["muted", "−3.0 dB", "left", "bystander", "by level"]);
  assert.deepEqual(clipNotes({ ...usual, late_n: 0.48 * S }, { sound_n: 5 }), ["0.48 s after its picture"]);
  assert.deepEqual(clipNotes({ ...usual, late_n: -S }, { sound_n: 5 }), ["1.00 s before its picture"]);
});

test("a dip says its depth and its times, or that there is none", () => {
  const passage = { start_n: S, stop_n: 3 * S, dip: { amount_db: -14 } };
  const times = { attack_ms: 350, hold_ms: 500, release_ms: 700 };
  assert.equal(dipWords(passage, 1, times), "Passage 2, from 00:01.0 to 00:03.0: the music goes down to −14.0 dB in 350 ms, is held for 500 ms and comes up in 700 ms");
  assert.equal(dipWords({ ...passage, none: true }, 0, times), "Passage 1, from 00:01.0 to 00:03.0: no dip");
});

test("a flag says its marker's name and time", () => assert.equal(markerWords({ name: "Noon", time_n: 103.5 * S }), "Noon · 01:43.50"));
