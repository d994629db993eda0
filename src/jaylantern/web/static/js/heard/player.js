// Plays windows that the server rendered, back to back on one clock. A change of what is heard (a setting, ducked or
// plain, a jump) begins a new generation of windows, which takes over from the old one within a few hundredths of a
// second by a short crossfade; within a generation windows join sample by sample.

import { ask } from "../ground/api.js";
import { FADE_S, beginsAt, fadedIn, fadedOut, goesOnAt, heardBefore, heardOf, inLoop, late, onSample } from "../plain/generations.js";
import { levelOf } from "../plain/levels.js";
import { RATE } from "../plain/units.js";
import { backwards, nextWindow, placeIn } from "../plain/windows.js";

const AHEAD_S = 2.5; // how far ahead windows are fetched
const SOON_S = 0.09; // when a new generation takes over
const CHANNELS = 2;

/** Events: "state" when playing begins or ends, "trouble" with a message. */
export class Player extends EventTarget {
  /** @param {() => {length_n: number, url: string, match_db?: number, louder_db?: number}} programme `louder_db`: the held draft than the present */
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
    this.care_db = 0; // by how much louder voices are with what is done to them
    this.matched = false; // is plain played as loud as ducked?
    this.held = false; // is the held draft heard, not the present one?
    this.drafts_matched = false; // are both drafts played equally loud?
    this.loop = null; // [start_n, stop_n] or null
    this.rate = 1; // of playing: 2 twice as fast, −1 back
    this._lead = null; // { at_n, from_n }: playing from a place begins a little before it
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
    this.rate = 1;
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
    const heard = heardOf(this._parts(), at);
    return heard ? placeIn(heard, at, RATE) : this._still_n;
  }

  /** Sample peaks of what is heard in the next 50 ms, [left, right], and its meters; null while still. */
  get level() {
    if (!this.playing) return null;
    const at = this._context.currentTime;
    const heard = this._parts().findLast((part) => part.at <= at && at < part.end);
    if (!heard) return null;
    const first = Math.round((at - heard.at) * RATE * Math.abs(heard.rate));
    const peaks = peaksOf(heard.samples, first, first + RATE / 20);
    const now_n = placeIn(heard, at, RATE);
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
    this._still_n = beginsAt(this._still_n, { length_n, rate: this.rate, lead: this._lead });
    this.playing = true;
    this._turn(this._still_n, { soon: 0.03 });
    this.dispatchEvent(new Event("state"));
  }

  /** Play at a rate, negative for back; 1 as it is. Begins to play where it was still. */
  async shuttle(rate) {
    const turned = Math.sign(rate) !== Math.sign(this.rate);
    this.rate = rate;
    if (this.playing) this._turn(turned ? this.now_n : null, { soon: SOON_S });
    else await this.play();
    this.dispatchEvent(new Event("state"));
  }

  /** Stand still at a place, from which playing begins a little earlier. */
  park(at_n, from_n) {
    this.seek(this.playing ? from_n : at_n);
    if (!this.playing) this._lead = { at_n: this._still_n, from_n };
  }

  pause() {
    if (!this.playing) return;
    this._still_n = this.now_n;
    this._end();
  }

  _end() {
    this.playing = false;
    this.rate = 1;
    this._turns += 1;
    this._turning = this._dirty = false;
    this._fadeOut(this._generation, this._context.currentTime + 0.005);
    this._generation = null;
    this.dispatchEvent(new Event("state"));
  }

  seek(time_n) {
    const to_n = Math.max(0, Math.min(Math.round(time_n), this._programme().length_n));
    if (this.loop && !inLoop(to_n, this.loop)) this.loop = null;
    this._still_n = to_n;
    if (this._lead?.at_n !== to_n) this._lead = null;
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

  /** Hear the held draft, or the present one; both equally loud or as they are. */
  setDraft(held, matched) {
    if (held === this.held && matched === this.drafts_matched) return;
    this.held = held;
    this.drafts_matched = matched;
    this.refresh();
    this.dispatchEvent(new Event("state"));
  }

  /** Amplitude that what is heard is played at. */
  get amplitude() {
    return levelOf(this, this._programme());
  }

  setLoop(loop) {
    this.loop = loop;
    if (loop && !inLoop(this.now_n, loop)) this.seek(loop[0]);
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
    const at = onSample(this._context.currentTime + soon);
    const start_n = from_n ?? goesOnAt(this._parts(), at, this._still_n);
    const generation = { gain: null, level: this.amplitude, parts: [], before: [], next_n: start_n, next_at: at, ended: false, turn, rate: this.rate, variant: this.variant, held: this.held };
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

  /** Fetch the next window of a generation and put it on the clock. */
  async _add(generation) {
    const first = generation.gain === null;
    const { url, length_n } = this._programme();
    const { rate, variant, held } = generation;
    const wide = first ? 1 : Math.min(4, Math.abs(rate));
    const found = nextWindow({ at_n: generation.next_n, rate, length_n, loop: this.loop, skips: this.skips, wide });
    if (!found) {
      generation.ended = true;
      if (first) this._takeOver(generation, generation.next_at);
      return;
    }
    const { start_n, stop_n } = found;
    const answer = await ask(`${url}/listen/${variant}?start=${start_n}&stop=${stop_n}${held ? "&held=1" : ""}`);
    const fetched = new Float32Array(await answer.arrayBuffer());
    if (!this.playing || (first ? generation.turn !== this._turns : this._generation !== generation)) return;
    const { next_at, skip_n, heard } = late({ now: this._context.currentTime, next_at: generation.next_at, count_n: stop_n - start_n, rate, over: first && this._generation !== null });
    generation.next_at = next_at;
    if (heard) {
      generation.next_n = rate < 0 ? start_n : stop_n; // as it was: the next window takes over
      return this._add(generation);
    }
    if (first) this._takeOver(generation, generation.next_at);
    const samples = (rate < 0 ? backwards(fetched, CHANNELS) : fetched).subarray(skip_n * CHANNELS);
    const part = rate < 0 ? { start_n, stop_n: stop_n - skip_n } : { start_n: start_n + skip_n, stop_n };
    this._schedule(generation, samples, { ...part, rate, meters: JSON.parse(answer.headers.get("X-Meter")) });
  }

  /** Put samples (interleaved, as they are to be heard) on the clock after what is there. */
  _schedule(generation, samples, part) {
    const count = samples.length / CHANNELS;
    const speed = Math.abs(part.rate);
    const buffer = this._context.createBuffer(CHANNELS, count, RATE);
    for (let c = 0; c < CHANNELS; c += 1) {
      const channel = new Float32Array(count); // a copy: what the clock is given may be taken away from us
      for (let i = 0; i < count; i += 1) channel[i] = samples[i * CHANNELS + c];
      buffer.copyToChannel(channel, c);
    }
    const source = this._context.createBufferSource();
    source.buffer = buffer;
    source.playbackRate.value = speed;
    source.connect(generation.gain);
    source.start(generation.next_at);
    const end = generation.next_at + count / RATE / speed;
    generation.parts.push({ ...part, at: generation.next_at, end, source, samples });
    const gone = this._context.currentTime - 0.5;
    const stands = generation.parts.findLast((each) => each.at <= this._context.currentTime); // also when it has stuttered for long
    generation.parts = generation.parts.filter((each) => each.end > gone || each === stands);
    generation.before = generation.before.filter((each) => each.end > gone && each.at < generation.begun);
    generation.next_n = part.rate < 0 ? part.start_n : part.stop_n;
    generation.next_at = onSample(end);
  }

  _takeOver(generation, at) {
    const old = this._generation;
    generation.gain = this._context.createGain();
    generation.gain.connect(this._context.destination);
    follow(generation.gain.gain, fadedIn(at, generation.level, old !== null));
    generation.begun = at;
    if (old) {
      this._fadeOut(old, at);
      generation.before = heardBefore(old.parts, at);
    }
    this._generation = generation;
  }

  _fadeOut(generation, at) {
    if (!generation?.gain) return;
    follow(generation.gain.gain, fadedOut(at, generation.level));
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
          this._still_n = generation.rate < 0 ? 0 : this._programme().length_n;
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

/** Have a gain take values at times, by lines from one to the next. @param {AudioParam} gain @param {number[][]} course [time, amplitude] */
function follow(gain, course) {
  const [[at, first], ...rest] = course;
  gain.setValueAtTime(first, at);
  for (const [time, amplitude] of rest) gain.linearRampToValueAtTime(amplitude, time);
}

/** Highest sample of each channel, [left, right]. @param {Float32Array} samples interleaved @param {number} from in samples of a channel */
function peaksOf(samples, from, to) {
  const peaks = Array.from({ length: CHANNELS }, () => 0);
  for (let i = from * CHANNELS; i < Math.min(to * CHANNELS, samples.length); i += 1) {
    peaks[i % CHANNELS] = Math.max(peaks[i % CHANNELS], Math.abs(samples[i]));
  }
  return peaks;
}
