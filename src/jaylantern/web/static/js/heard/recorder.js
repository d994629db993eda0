// Records a voice take: a count of three with the picture running, then what the microphone hears, sent to the server bit by
// bit as it comes. Nothing is kept in the page that is not on its way.

import { ask, sendBytes, sendJson } from "../ground/api.js";
import { RATE } from "../plain/units.js";

const COUNT_S = 3;
const PART_N = 4096; // a twelfth of a second
const LAST_BYTES = 60_000; // a page that is being left may send so much, by the Fetch standard (64 KiB in all)

const wait = (ms) => new Promise((done) => setTimeout(done, ms));

/** Events: "enough" when it is to be stopped by whoever began it, "count" with seconds left, "begun", "part" with samples recorded, "ended", "trouble" with a message. */
export class Recorder extends EventTarget {
  constructor({ player, url }) {
    super();
    this._player = player;
    this._url = url;
    this.take = null;
    this.recorded_n = 0;
    this._leave = () => this._sendLast();
  }

  get active() {
    return this.take !== null;
  }

  /** @param {import("./microphone.js").Microphone} microphone @param {number} latency_n */
  async start(microphone, latency_n) {
    const player = this._player;
    player.pause();
    const at_n = player.now_n;
    const first_n = Math.max(0, at_n - COUNT_S * RATE);
    this.take = await sendJson(`${this._url}/takes`, { at_n, latency_n });
    this._microphone = microphone;
    this._parts = [];
    this._waiting_n = 0;
    this._sent_n = 0;
    this._unsaved = [];
    this.recorded_n = 0;
    this._sending = Promise.resolve();
    this._ended = false;
    const lead_s = COUNT_S - (at_n - first_n) / RATE;
    const begun = await player.playFrom(first_n, lead_s);
    this._from_s = begun + (at_n - first_n) / RATE;
    this._from_frame = Math.round(this._from_s * RATE);
    microphone.speak(this._from_s);
    this._take = (event) => this._heard(event.detail);
    microphone.addEventListener("samples", this._take);
    window.addEventListener("pagehide", this._leave);
    this._counting = setInterval(() => this._count(), 50);
  }

  /** A key or button says that it is enough. */
  askStop() {
    this.dispatchEvent(new Event("enough"));
  }

  _count() {
    const left = this._from_s - this._microphone.context.currentTime;
    this.dispatchEvent(new CustomEvent("count", { detail: left }));
    if (left > 0) return;
    clearInterval(this._counting);
    this.dispatchEvent(new Event("begun"));
  }

  _heard({ frame, samples }) {
    const skip = Math.min(Math.max(this._from_frame - frame, 0), samples.length);
    if (skip === samples.length) return;
    const part = samples.subarray(skip);
    this._parts.push(part);
    this._waiting_n += part.length;
    this.recorded_n += part.length;
    this.dispatchEvent(new CustomEvent("part", { detail: this.recorded_n }));
    if (this._waiting_n >= PART_N) this._send();
  }

  _gathered() {
    const all = new Float32Array(this._waiting_n);
    let at = 0;
    for (const part of this._parts) {
      all.set(part, at);
      at += part.length;
    }
    this._parts = [];
    this._waiting_n = 0;
    return all;
  }

  /** Send what is waiting, after all that went before it; tried again until it gets through. */
  _send() {
    const samples = this._gathered();
    const offset = this._sent_n;
    this._sent_n += samples.length;
    this._unsaved.push(samples);
    this._sending = this._sending.then(async () => {
      for (let tries = 0; ; tries += 1) {
        try {
          await sendBytes(`/takes/${this.take.token}?offset=${offset}`, new Blob([samples]));
          this._unsaved.shift();
          return;
        } catch (error) {
          if (error.status === 404 || error.status === 422) throw error;
          if (tries === 0) this.dispatchEvent(new CustomEvent("trouble", { detail: `${error.message} The take is held in the page until it can be saved.` }));
          await wait(Math.min(4000, 300 * 2 ** tries));
        }
      }
    });
    this._sending.catch((error) => this.dispatchEvent(new CustomEvent("trouble", { detail: error.message })));
  }

  /**
   * The page is being left: all that is not known to be saved is laid by in the browser, and what may still go out goes out.
   * What came already is let pass by the server.
   */
  _sendLast() {
    if (!this.active) return;
    const offset = this._sent_n - this._unsaved.reduce((sum, part) => sum + part.length, 0);
    const parts = [...this._unsaved, this._gathered()];
    const last = new Blob(parts);
    if (!last.size) return;
    layBy(this.take.token, offset, parts);
    const token = document.querySelector("meta[name=csrf]").content;
    const headers = { "Content-Type": "application/octet-stream", "X-CSRFToken": token };
    ask(`/takes/${this.take.token}?offset=${offset}`, { method: "PUT", headers, body: last.slice(0, LAST_BYTES), keepalive: true }).catch(() => {});
  }

  /** Stop and make a file of it; answers the take, or null if it was stopped before it began. */
  async stop() {
    const { take } = this;
    clearInterval(this._counting);
    this._microphone.removeEventListener("samples", this._take);
    window.removeEventListener("pagehide", this._leave);
    this._microphone.close();
    this._player.pause();
    this._player.seek(take.at_n); // back where it began, to be heard or spoken once more
    if (this._waiting_n) this._send();
    try {
      await this._sending;
    } finally {
      this.take = null;
      this.dispatchEvent(new Event("ended"));
    }
    if (!this.recorded_n) {
      await sendJson(`/takes/${take.token}`, {}, "DELETE");
      return null;
    }
    return sendJson(`/takes/${take.token}/finish`);
  }
}

const REST = "jay-lantern: rest of take ";
const SLICE_BYTES = 32_768;

/** Keep samples in the browser until a page of ours is opened again. */
function layBy(token, offset, parts) {
  let text = "";
  for (const part of parts) {
    const bytes = new Uint8Array(part.buffer, part.byteOffset, part.byteLength);
    for (let at = 0; at < bytes.length; at += SLICE_BYTES) text += String.fromCharCode(...bytes.subarray(at, at + SLICE_BYTES));
  }
  try {
    localStorage.setItem(REST + token, JSON.stringify({ offset, samples: btoa(text) }));
  } catch {
    // the browser keeps a few megabytes, a quarter of a minute of sound; what goes out now has to do
  }
}

/** Send what was laid by when a page was left. */
async function sendLaidBy() {
  for (const key of Object.keys(localStorage).filter((each) => each.startsWith(REST))) {
    const { offset, samples } = JSON.parse(localStorage.getItem(key));
    const bytes = Uint8Array.from(atob(samples), (letter) => letter.charCodeAt(0));
    try {
      await sendBytes(`/takes/${key.slice(REST.length)}?offset=${offset}`, new Blob([bytes]));
    } catch (error) {
      if (!error.status) continue; // no server: it stays laid by
    }
    localStorage.removeItem(key);
  }
}

/** Resolves when nothing of an earlier page is on its way any more. */
export const restSent = sendLaidBy().catch(() => {});
