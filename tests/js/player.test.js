import assert from "node:assert/strict";
import { test } from "node:test";
import { setTimeout as rest } from "node:timers/promises";

const RATE = 48_000;
globalThis.document ??= Object.assign(new EventTarget(), { querySelector: () => ({ content: "" }) });

const gain = () => ({ gain: { setValueAtTime() {}, linearRampToValueAtTime() {} }, connect() {} });
const source = () => ({ playbackRate: {}, connect() {}, start() {}, stop() {} });

/** A clock that stands until it is turned. */
globalThis.AudioContext = /** @type {any} */ (
  class {
    currentTime = 0;
    destination = {};
    async resume() {}
    createBuffer = () => ({ copyToChannel() {} });
    createBufferSource = source;
    createGain = gain;
  }
);

const { Player } = await import("../../src/jaylantern/web/static/js/heard/player.js");

const asked = [];
let arrives = async () => {};
globalThis.fetch = async (url) => {
  const query = new URL(url, "http://here").searchParams;
  const [start_n, stop_n] = ["start", "stop"].map((name) => Number(query.get(name)));
  asked.push(start_n);
  await arrives();
  const headers = { "X-Meter": JSON.stringify([{ start_n, lufs: [0], dbtp: 0, lanes: {} }]) };
  return new Response(new Float32Array(2 * (stop_n - start_n)), { headers });
};

async function playing(t) {
  asked.length = 0;
  arrives = async () => {};
  const player = new Player(() => ({ length_n: 20 * RATE, url: "" }));
  t.after(() => player.pause());
  await player.play();
  await rest(100);
  return player;
}

test("what is heard anew and comes too late for a whole window takes over with the next one", async (t) => {
  const player = await playing(t);
  player.context.currentTime = 0.03 + 1.9;
  arrives = async () => (player.context.currentTime += asked.at(-1) < 2 * RATE ? 0.3 : 0); // a tenth of a second of the window was left
  player.refresh();
  const seen = [];
  for (let k = 0; k < 12; k += 1) {
    await rest(10);
    player.context.currentTime += 0.02;
    seen.push(player.now_n);
  }
  assert.deepEqual(seen, seen.toSorted((a, b) => a - b));
  assert.ok(seen[0] > 2.1 * RATE && seen.at(-1) > 2.3 * RATE && seen.at(-1) < 2.6 * RATE, String(seen));
});

test("a player that stutters stands where it was, and goes on from there", async (t) => {
  const player = await playing(t);
  let waits = () => {};
  arrives = () => new Promise((done) => (waits = () => done()));
  player.context.currentTime = 30;
  await rest(60);
  assert.equal(player.now_n, 3 * RATE);
  arrives = async () => {};
  waits();
  await rest(20);
  assert.ok(player.now_n >= 3 * RATE, String(player.now_n));
  player.context.currentTime += 0.5;
  assert.ok(player.now_n > 3.3 * RATE && player.now_n < 4.5 * RATE, String(player.now_n));
});
