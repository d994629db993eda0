// Plays windows that the server rendered, back to back on one clock. A change of what is heard (a setting, ducked or
// plain, a jump) begins a new generation of windows, which takes over from the old one within a few hundredths of a
// second by a short crossfade; within a generation windows join sample by sample.

import { ask } from "./api.js";
import { RATE } from "./units.js";

const AHEAD_S = 2.5; // how far ahead windows are fetched
const SOON_S = 0.09; // when a new generation takes over
const FADE_S = 0.012;
const WINDOW_N = RATE;
const CHANNELS = 2;

/** Events: "state" when playing begins or ends, "trouble" with a message. */
export class Player extends EventTarget {
  /** @param {() => {length_n: number, url: string}} programme */
  constructor(programme) {
    super();
    this._programme = programme;
    this._context = null;
    this._generation = null;
    this._still_n = 0;
    this._dirty = false;
    this._turning = false;
    this._turns = 0; // a turn that is not the newest any more gives up
    this.playing = false;
    this.variant = "ducked";
    this.matched = false; // is plain played as loud as ducked?
    this.loop = null; // [start_n, stop_n] or null
    this.skips = []; // stretches [start_n, stop_n] that are left out, in order
  }

  /** The clock all sound is on, or null before anything was played. */
  get context() {
    return this._context;
  }

  /** The clock, running. */
  async awake() {
    if (!this._context) this._context = new AudioContext({ sampleRate: RATE, latencyHint: "interactive" });
    await this._context.resume();
    return this._context;
  }

  /**
   * Play from a time after a silence; answers when it sounds on the clock. Where there is nothing to play the clock runs
   * all the same.
   */
  async playFrom(time_n, silence_s) {
    const context = await this.awake();
    this.loop = null;
    this.pause();
    this._still_n = time_n;
    const soon = silence_s + SOON_S;
    if (time_n >= this._programme().length_n) return context.currentTime + soon;
    this.playing = true;
    const turned = this._turn(time_n, { soon });
    this.dispatchEvent(new Event("state"));
    await turned;
    return this._generation?.begun ?? context.currentTime + soon;
  }

  /** Leave stretches out while playing. @param {number[][]} skips disjoint, in order */
  setSkips(skips) {
    this.skips = skips;
    this.refresh();
  }

  /** Where the programme is heard now, in samples. */
  get now_n() {
    if (!this.playing || !this._context) return this._still_n;
    const at = this._context.currentTime;
    let heard = null;
    for (const part of this._parts()) if (part.at <= at && (!heard || part.at >= heard.at)) heard = part;
    if (!heard) return this._still_n;
    const inside = Math.min(Math.round((at - heard.at) * RATE), heard.stop_n - heard.start_n);
    return heard.start_n + inside;
  }

  /** Sample peaks of what is heard in the next 50 ms, [left, right], and its meters; null while still. */
  get level() {
    if (!this.playing) return null;
    const at = this._context.currentTime;
    const heard = this._parts().findLast((part) => part.at <= at && at < part.end);
    if (!heard) return null;
    const first = Math.round((at - heard.at) * RATE);
    const peaks = heard.channels.map((channel) => {
      let peak = 0;
      for (const value of channel.subarray(first, first + RATE / 20)) peak = Math.max(peak, Math.abs(value));
      return peak;
    });
    const now_n = heard.start_n + first;
    const meter = heard.meters.findLast((each) => each.start_n <= now_n) ?? heard.meters[0];
    const tenth = Math.min(meter.lufs.length - 1, Math.floor((now_n - meter.start_n) / (RATE / 10)));
    const lanes = {};
    for (const [id, levels] of Object.entries(meter.lanes)) {
      lanes[id] = levels[Math.min(levels.length - 1, Math.floor((now_n - meter.start_n) / (RATE / levels.length)))];
    }
    const key = meter.key?.[Math.min(19, Math.floor((now_n - meter.start_n) / (RATE / 20)))] ?? null;
    return { peaks, lufs: meter.lufs[tenth], dbtp: meter.dbtp, lanes, key };
  }

  _parts() {
    return [...(this._generation?.before ?? []), ...(this._generation?.parts ?? [])];
  }

  async play() {
    const { length_n } = this._programme();
    if (this.playing || !length_n) return;
    await this.awake();
    if (this.playing) return;
    if (this._still_n >= length_n) this._still_n = 0;
    this.playing = true;
    this._turn(this._still_n, { soon: 0.03 });
    this.dispatchEvent(new Event("state"));
  }

  pause() {
    if (!this.playing) return;
    this._still_n = this.now_n;
    this._end();
  }

  _end() {
    this.playing = false;
    this._turns += 1;
    this._turning = this._dirty = false;
    this._fadeOut(this._generation, this._context.currentTime + 0.005);
    this._generation = null;
    this.dispatchEvent(new Event("state"));
  }

  seek(time_n) {
    const to_n = Math.max(0, Math.min(Math.round(time_n), this._programme().length_n));
    if (this.loop && (to_n < this.loop[0] || to_n >= this.loop[1])) this.loop = null;
    this._still_n = to_n;
    if (this.playing) this._turn(to_n, { soon: 0.03 });
    this.dispatchEvent(new Event("state"));
  }

  setVariant(variant) {
    this.variant = variant;
    this.refresh();
  }

  /** Play plain as loud as ducked, or as it is. */
  setMatched(matched) {
    this.matched = matched;
    this.refresh();
    this.dispatchEvent(new Event("state"));
  }

  /** Amplitude that the present variant is played at. */
  _level() {
    if (!this.matched) return 1;
    const { match_db = 0 } = this._programme();
    if (this.variant === "plain") return 10 ** (Math.min(0, match_db) / 20);
    return this.variant === "ducked" ? 10 ** (Math.min(0, -match_db) / 20) : 1;
  }

  setLoop(loop) {
    this.loop = loop;
    if (loop && (this.now_n < loop[0] || this.now_n >= loop[1])) this.seek(loop[0]);
    else this.refresh();
    this.dispatchEvent(new Event("state"));
  }

  /** What is heard has changed: new windows take over as soon as they are there. */
  refresh() {
    if (!this.playing) return;
    if (this._turning) {
      this._dirty = true;
      return;
    }
    this._turn(null, { soon: SOON_S });
  }

  /** Begin a new generation at a time of the programme, or (null) where the old one will be. */
  async _turn(from_n, { soon }) {
    this._turns += 1;
    const turn = this._turns;
    const at = this._whole(this._context.currentTime + soon);
    const start_n = from_n ?? this._heardAt(at);
    const generation = { gain: null, level: this._level(), parts: [], before: [], next_n: start_n, next_at: at, ended: false, turn };
    this._turning = true;
    try {
      await this._add(generation);
    } catch (error) {
      if (turn === this._turns) this._fail(error);
    }
    if (turn !== this._turns) return;
    this._turning = false;
    if (this._dirty) {
      this._dirty = false;
      this.refresh();
    } else if (this._generation === generation) {
      this._fill(generation);
    }
  }

  _heardAt(at) {
    const parts = this._parts();
    const part = parts.findLast((each) => each.at <= at) ?? parts[0];
    if (!part) return this._still_n;
    return part.start_n + Math.max(0, Math.round((at - part.at) * RATE));
  }

  /** The next moment that falls on a sample of the context; one that does already, but for rounding, stays. */
  _whole(at) {
    return Math.ceil(at * RATE - 0.01) / RATE;
  }

  /** Fetch the next window of a generation and put it on the clock. */
  async _add(generation) {
    const first = generation.gain === null;
    const { url, length_n } = this._programme();
    if (this.loop && generation.next_n >= this.loop[1]) generation.next_n = this.loop[0];
    const end_n = this.loop && generation.next_n < this.loop[1] ? this.loop[1] : length_n;
    const skip = this.skips.find(([from_n, to_n]) => from_n <= generation.next_n && generation.next_n < to_n);
    if (skip) generation.next_n = Math.min(skip[1], end_n);
    const start_n = generation.next_n;
    if (start_n >= end_n) {
      generation.ended = true;
      if (first) this._takeOver(generation, generation.next_at);
      return;
    }
    const whole_n = (Math.floor(start_n / WINDOW_N) + 1) * WINDOW_N;
    const stop_n = this.skips.reduce((stop, [from_n]) => (from_n > start_n ? Math.min(stop, from_n) : stop), Math.min(whole_n, end_n));
    const answer = await ask(`${url}/listen/${this.variant}?start=${start_n}&stop=${stop_n}`);
    const samples = new Float32Array(await answer.arrayBuffer());
    if (!this.playing || (first ? generation.turn !== this._turns : this._generation !== generation)) return;
    let skip_n = 0;
    const late = this._context.currentTime + 0.015 - generation.next_at;
    if (late > 0) {
      if (first && this._generation) skip_n = Math.min(Math.ceil(late * RATE), stop_n - start_n - 1);
      generation.next_at = this._whole(generation.next_at + (skip_n ? skip_n / RATE : late));
    }
    if (first) this._takeOver(generation, generation.next_at);
    this._schedule(generation, samples, start_n + skip_n, stop_n, skip_n, JSON.parse(answer.headers.get("X-Meter")));
  }

  _schedule(generation, samples, start_n, stop_n, skip_n, meters) {
    const count = stop_n - start_n;
    const buffer = this._context.createBuffer(CHANNELS, count, RATE);
    const channels = [];
    for (let c = 0; c < CHANNELS; c += 1) {
      const channel = buffer.getChannelData(c);
      for (let i = 0; i < count; i += 1) channel[i] = samples[(i + skip_n) * CHANNELS + c];
      channels.push(channel);
    }
    const source = this._context.createBufferSource();
    source.buffer = buffer;
    source.connect(generation.gain);
    source.start(generation.next_at);
    const end = generation.next_at + count / RATE;
    generation.parts.push({ at: generation.next_at, end, start_n, stop_n, source, channels, meters });
    const gone = this._context.currentTime - 0.5;
    generation.parts = generation.parts.filter((part) => part.end > gone);
    generation.before = generation.before.filter((part) => part.end > gone && part.at < generation.begun);
    generation.next_n = stop_n;
    generation.next_at = this._whole(end);
  }

  _takeOver(generation, at) {
    const old = this._generation;
    generation.gain = this._context.createGain();
    generation.gain.connect(this._context.destination);
    generation.gain.gain.setValueAtTime(generation.level, at);
    generation.begun = at;
    if (old) {
      generation.gain.gain.setValueAtTime(0, at);
      generation.gain.gain.linearRampToValueAtTime(generation.level, at + FADE_S);
      this._fadeOut(old, at);
      generation.before = old.parts.map((part) => ({ ...part, end: Math.min(part.end, at) })).filter((p) => p.at < at);
    }
    this._generation = generation;
  }

  _fadeOut(generation, at) {
    if (!generation?.gain) return;
    generation.gain.gain.setValueAtTime(generation.level, at);
    generation.gain.gain.linearRampToValueAtTime(0, at + FADE_S);
    for (const part of generation.parts) {
      try {
        part.source.stop(at + FADE_S);
      } catch {
        // it had ended by itself
      }
    }
  }

  async _fill(generation) {
    while (this.playing && this._generation === generation) {
      const now = this._context.currentTime;
      if (generation.ended) {
        const last = generation.parts.at(-1);
        if (!last || now >= last.end) {
          this._still_n = this._programme().length_n;
          this._end();
          return;
        }
      } else if (generation.next_at - now < AHEAD_S) {
        try {
          await this._add(generation);
        } catch (error) {
          this._fail(error);
          return;
        }
        continue;
      }
      await new Promise((done) => setTimeout(done, 40));
    }
  }

  _fail(error) {
    if (!this.playing) return;
    this._still_n = this.now_n;
    this._end();
    this.dispatchEvent(new CustomEvent("trouble", { detail: error.message }));
  }
}
