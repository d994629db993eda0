import assert from "node:assert/strict";
import { beforeEach, test } from "node:test";

globalThis.sessionStorage ??= /** @type {any} */ ({ getItem: () => null, setItem() {} });
const RATE = 48_000;
const said = [];
const region = { children: [], append: (note) => said.push(note.text) };
globalThis.document ??= /** @type {any} */ (Object.assign(new EventTarget(), { querySelector: () => ({ content: "" }) }));
Object.assign(document, {
  getElementById: () => region,
  querySelectorAll: () => [],
  createElement: () => ({ dataset: {}, addEventListener() {}, remove() {}, append(...words) { this.text = `${this.text ?? ""}${words[0]}`; } }),
});
let frames = [];
globalThis.requestAnimationFrame = (work) => frames.push(work);
let clock_ms = 0;
performance.now = () => clock_ms;

const { Ride } = await import("../../src/jaylantern/web/static/js/heard/ride.js");

class Player extends EventTarget {
  playing = true;
  rate = 1;
  now_n = 10 * RATE;
}

const LANE = { id: 3, gain_db: 0, clips: [{ id: 7, start_n: 0, length_n: 100 * RATE, line: [] }] };

/** A document whose commands are answered in order, each by `answer`. */
class Doc extends EventTarget {
  sent = [];
  drags = [];
  answer = async () => {};
  doc = { undo: "Ride Bed" };
  lines = [];
  lane = () => ({ ...LANE, clips: [{ ...LANE.clips[0], line: this.lines }] });
  do(name, values) {
    const turn = (this.line ?? Promise.resolve()).then(async () => {
      const found = typeof values === "function" ? values() : values;
      await this.answer(found);
      this.sent.push({ name, ...found });
      this.lines = [`line after ${this.sent.length}`];
    });
    this.line = turn.catch(() => {});
    return turn;
  }
  drag(_, values) {
    this.line = (this.line ?? Promise.resolve()).then(() => this.drags.push(values()));
    return this.line;
  }
}

let ride, player, pageDoc, stood;
beforeEach(() => {
  [frames, said.length, clock_ms] = [[], 0, 0];
  player = new Player();
  pageDoc = new Doc();
  stood = [];
  ride = new Ride({ pageDoc, player, selection: { hand: "line" } });
  ride.touch(LANE, (gain_db) => stood.push(gain_db));
});

/** Time passes for page and player; `frame`: and a frame is drawn. */
function pass(seconds, { frame = true, jump_n = 0 } = {}) {
  clock_ms += seconds * 1000;
  player.now_n += seconds * RATE + jump_n;
  if (frame) for (const work of frames.splice(0)) work();
}

const spans = () => pageDoc.sent.map(({ time_n }) => [time_n[0] / RATE, time_n.at(-1) / RATE]);

test("a ride is written from where the fader was touched to where it was let go", async () => {
  ride.to(-6);
  for (let k = 0; k < 20; k += 1) pass(0.1);
  pass(3, { frame: false }); // a page so busy that it draws nothing
  await ride.letGo();
  assert.deepEqual(spans(), [[10, 15]]);
  assert.equal(pageDoc.sent[0].gain_db.at(-1), -6);
  assert.deepEqual([stood, said], [[0], ["Ride Bed"]]);
});

test("where the playhead jumps while the fader is held, both parts are written, the second over the first", async () => {
  ride.to(-6);
  pass(1);
  ride.to(-9);
  pass(1);
  pass(0.1, { jump_n: 20 * RATE });
  assert.equal(ride.lane_id, 3); // it is held still
  pass(2);
  ride.to(-3);
  pass(1);
  await ride.letGo();
  assert.deepEqual(spans(), [[10, 12], [32.1, 35.1]]);
  assert.deepEqual(pageDoc.sent[1].time_n, [32.1 * RATE, 34.1 * RATE - 1, 34.1 * RATE, 35.1 * RATE]);
  assert.equal(pageDoc.sent[0].gesture, pageDoc.sent[1].gesture); // one step of the history
  assert.deepEqual(pageDoc.sent.map(({ over }) => over[7]), [[], ["line after 1"]]);
  assert.deepEqual(pageDoc.sent[1].gain_db, [-9, -9, -3, -3]);
});

test("a loop that turns back begins a further part", async () => {
  ride.to(-6);
  pass(1);
  pass(0.1, { jump_n: -1 * RATE });
  pass(1);
  await ride.letGo();
  assert.deepEqual(spans(), [[10, 11], [10.1, 11.1]]);
});

test("when it stops playing what was ridden is written to where it stopped", async () => {
  ride.to(-6);
  pass(1);
  pass(0.7, { frame: false });
  player.playing = false;
  player.dispatchEvent(new Event("state"));
  await pageDoc.line;
  assert.deepEqual(spans(), [[10, 11.7]]);
  assert.equal(ride.lane_id, null);
});

test("a fader that is held still takes two points, however long", async () => {
  ride.to(-6);
  for (let k = 0; k < 600; k += 1) pass(0.1);
  await ride.letGo();
  assert.deepEqual(spans(), [[10, 70]]);
  assert.ok(pageDoc.sent[0].time_n.length <= 4, String(pageDoc.sent[0].time_n.length));
});

test("what could not be written is said, with its place and why", async () => {
  pageDoc.answer = async () => {
    throw new Error("The server does not answer.");
  };
  ride.to(-6);
  pass(2);
  await ride.letGo();
  assert.match(said[0], /^The ride from 00:10.0 to 00:12.0 is not written to its end: The server does not answer\. Ride it again\./);
});

test("undo while it is held comes after what was ridden is sent", async () => {
  ride.to(-6);
  pass(1);
  const order = [];
  pageDoc.answer = async () => order.push("ride");
  pageDoc.dispatchEvent(new Event("back"));
  pageDoc.line = pageDoc.line.then(() => order.push("undo"));
  await pageDoc.line;
  assert.deepEqual(order, ["ride", "undo"]);
});

test("a touch that moves nothing writes nothing", async () => {
  pass(1);
  await ride.letGo();
  assert.deepEqual([pageDoc.sent, said], [[], []]);
});

test("while it is held it is heard: so far, and two seconds ahead", async () => {
  ride.to(-6);
  pass(0.5);
  await pageDoc.line;
  const [last] = pageDoc.drags.slice(-1);
  assert.deepEqual([last.time_n.at(-2) / RATE, last.time_n.at(-1) / RATE, last.gain_db.at(-1)], [10.5, 12.5, -6]);
});
