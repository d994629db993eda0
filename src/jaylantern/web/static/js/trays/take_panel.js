// Lay out: recording a voice take, with its level, and the takes in hand: listen, keep, discard.

import { awake } from "../ground/awake.js";
import { ask, getJson, sendJson } from "../ground/api.js";
import { fitted } from "../ground/canvas.js";
import { FigureField } from "../ground/figure_field.js";
import { Microphone, STAND_IN, STAND_IN_S, microphones } from "../heard/microphone.js";
import { restSent } from "../heard/recorder.js";
import { say, saying } from "../ground/said.js";
import { RATE, clock, figure } from "../plain/units.js";

const LOW_DB = -20; // common practice: speech that peaks below this was recorded too low
const HOT_DB = -3; // and above this it may be clipped
const FLOOR_DB = -60;
const good = (peak_db) => LOW_DB <= peak_db && peak_db <= HOT_DB;
const LOOK_BACK_S = 2;
const FALL_DB = 1.2;
const MIC = "jay-lantern: microphone";
const LATENCY = "jay-lantern: latency of ";
const PROBE_ROOM_S = 1.2;

export class TakePanel {
  /** @param {HTMLElement} element @param {{pageDoc: any, player: any, busy: any, recorder: import("../heard/recorder.js").Recorder}} pieces */
  constructor(element, { pageDoc, player, busy, recorder }) {
    this._element = element;
    this._pageDoc = pageDoc;
    this._player = player;
    this._busy = busy;
    this._recorder = recorder;
    this._by = (id) => element.querySelector(`#${id}`);
    this._peaks = []; // [context time, dBFS] of the last two seconds
    this._bar = FLOOR_DB;
    this._audio = null;
    this._stop = new AbortController();
    const options = { signal: this._stop.signal };
    pageDoc.addEventListener("change", () => this._fillLanes(), options);
    recorder.addEventListener("count", (event) => this._count(event.detail), options);
    recorder.addEventListener("begun", () => this._begun(), options);
    recorder.addEventListener("part", (event) => this._recorded(event.detail), options);
    recorder.addEventListener("trouble", (event) => say(event.detail, { trouble: true }), options);
    this._wire();
    this._fillMicrophones();
    this._fillLanes();
    this.list();
    this._say();
    this._showState();
    this._still = awake.add(() => this._drawMeter());
  }

  destroy() {
    this._stop.abort();
    this._audio?.pause();
    this._still();
  }

  _wire() {
    this._by("record").addEventListener("click", () => this.record());
    this._by("measure-latency").addEventListener("click", () => this._measure());
    this._by("mic").addEventListener("change", () => {
      localStorage.setItem(MIC, this._by("mic").value);
      this._latency.show(this._latency_ms);
    });
    const keep = (ms) => {
      localStorage.setItem(LATENCY + this._by("mic").value, String(Math.min(Math.max(ms, 0), 2000)));
      this._latency.show(this._latency_ms);
    };
    this._keepLatency = keep;
    this._latency = new FigureField(this._by("latency"), {
      format: (value) => `${figure(value, value % 1 ? 1 : 0)} ms`, unit: "ms", step: 1, what: "the latency",
      reset: () => {
        localStorage.removeItem(LATENCY + this._by("mic").value);
        this._latency.show(this._latency_ms);
      },
      send: async (value) => keep(value),
    });
  }

  async _fillMicrophones() {
    const found = await microphones();
    const kept = localStorage.getItem(MIC);
    this._by("mic").replaceChildren(
      ...found.map(({ id, name }) => {
        const option = document.createElement("option");
        option.value = id;
        option.textContent = name;
        return option;
      }),
    );
    if (found.some((each) => each.id === kept)) this._by("mic").value = kept;
    this._latency.show(this._latency_ms);
  }

  /** The latency of the microphone in ms: as set or measured, else as guessed. */
  get _latency_ms() {
    const id = this._by("mic").value;
    const kept = localStorage.getItem(LATENCY + id);
    if (kept !== null) return Number(kept);
    const guessed_s = id === STAND_IN ? STAND_IN_S : (this._player.context?.outputLatency || 0.02) + 0.01;
    return Math.round(1000 * guessed_s);
  }

  _fillLanes() {
    if (!this._pageDoc.doc) return;
    const select = this._by("take-lane");
    const kept = select.value;
    const option = (value, text) => {
      const made = document.createElement("option");
      made.value = value;
      made.textContent = text;
      return made;
    };
    const lanes = this._pageDoc.doc.lanes.filter((lane) => lane.kind === "sound" && lane.speaks);
    select.replaceChildren(option("", "a new lane"), ...lanes.map((lane) => option(lane.id, lane.name)));
    const takes = lanes.find((lane) => lane.name === "Voice takes");
    select.value = lanes.some((lane) => String(lane.id) === kept) ? kept : (takes?.id ?? "");
  }

  // — recording —

  async record() {
    if (this._recorder.active) {
      await this._end();
      return;
    }
    const button = this._by("record");
    if (button.ariaBusy === "true") return; // it is beginning already
    button.ariaBusy = "true";
    await saying(async () => {
      const context = await this._player.awake();
      const microphone = await Microphone.open(context, this._by("mic").value);
      this._listenTo(microphone);
      await this._recorder.start(microphone, Math.round((this._latency_ms * RATE) / 1000));
      this._showState();
      this._by("take-word").textContent = "Speak after the three.";
    });
    button.ariaBusy = "false";
  }

  _showState() {
    const { active } = this._recorder;
    this._by("record").textContent = active ? "Stop" : "Record at the playhead";
    this._by("record").classList.toggle("recording", active);
  }

  _count(left_s) {
    this._by("take-count").textContent = left_s > 0 ? String(Math.ceil(left_s)) : "speak";
  }

  _begun() {
    this._element.classList.add("on-air");
    document.body.classList.add("on-air");
  }

  _recorded(count_n) {
    this._by("take-count").textContent = clock(count_n, 1);
  }

  async _end() {
    const button = this._by("record");
    button.ariaBusy = "true";
    const take = await saying(() => this._recorder.stop());
    for (const each of [this._element, document.body]) each.classList.remove("on-air");
    this._microphone = null;
    button.ariaBusy = "false";
    this._showState();
    this._by("take-count").textContent = "ready";
    await this.list();
    if (!take) return;
    this._by("take-word").textContent = `${take.name}: ${this._verdict(take.peak_db)}`;
    this._by("take-word").classList.toggle("look-word", !good(take.peak_db));
  }

  _verdict(peak_db) {
    const peaks = `peaks at ${figure(peak_db, 1)} dBFS`;
    if (peak_db > HOT_DB) return `${peaks}: too hot, it may be clipped. Turn the input down.`;
    if (peak_db < LOW_DB) return `${peaks}: too low. Come closer or turn the input up.`;
    return `${peaks}: a good level.`;
  }

  // — level —

  _listenTo(microphone) {
    this._microphone = microphone;
    microphone.addEventListener("samples", (event) => {
      let peak = 0;
      for (const value of event.detail.samples) peak = Math.max(peak, Math.abs(value));
      const now = microphone.context.currentTime;
      const db = 20 * Math.log10(Math.max(peak, 1e-6));
      this._peaks = [...this._peaks.filter(([at]) => at > now - LOOK_BACK_S), [now, db]];
      this._bar = Math.max(this._bar, db);
      awake.wake();
      this._say();
    });
  }

  _say() {
    const word = this._by("take-word");
    if (!this._recorder.active || !this._element.classList.contains("on-air")) return;
    const peak = Math.max(...this._peaks.map(([, db]) => db));
    word.textContent = peak > HOT_DB ? "Too hot: turn the input down." : peak < LOW_DB ? "Too low: come closer or turn the input up." : "A good level.";
    word.classList.toggle("look-word", !good(peak));
  }

  _drawMeter() {
    if (this._element.offsetParent === null) return false;
    this._bar = Math.max(FLOOR_DB, this._bar - FALL_DB);
    const shown = `${this._bar} ${devicePixelRatio}`;
    if (shown === this._shown) return false;
    this._shown = shown;
    const [width, height] = [300, 26];
    const context = fitted(this._by("take-meter"), width, height);
    const x = (db) => (width * (Math.min(Math.max(db, FLOOR_DB), 0) - FLOOR_DB)) / -FLOOR_DB;
    context.fillStyle = "#E7DFCF";
    context.fillRect(0, 0, width, 12);
    context.fillStyle = this._bar > HOT_DB ? "#C2452F" : this._bar < LOW_DB ? "#B9A98A" : "#5D8750";
    context.fillRect(0, 0, x(this._bar), 12);
    context.font = '11px "Hyperlegible", sans-serif';
    context.fillStyle = "#5E6875";
    context.textBaseline = "bottom";
    for (const [db, word, align] of [[LOW_DB, "too low", "right"], [HOT_DB, "too hot", "right"]]) {
      context.fillRect(x(db) - 0.5, 0, 1.5, 16);
      context.textAlign = align;
      context.fillText(`${word} ${db === HOT_DB ? "›" : "‹"}`, db === HOT_DB ? width : x(db) + 14, height);
    }
    return true;
  }

  // — latency —

  async _measure() {
    if (this._recorder.active) return;
    const button = this._by("measure-latency");
    button.ariaBusy = "true";
    this._by("take-hint").textContent = "Listening for five clicks …";
    await saying(async () => {
      const context = await this._player.awake();
      const microphone = await Microphone.open(context, this._by("mic").value);
      try {
        const found = await this._clicks(context, microphone);
        this._keepLatency(Number(((1000 * found.latency_n) / RATE).toFixed(1)));
        this._by("take-hint").textContent = `Measured: sound arrives ${figure((1000 * found.latency_n) / RATE, 1)} ms late, and this is taken off every take.`;
      } finally {
        microphone.close();
      }
    });
    if (this._by("take-hint").textContent.startsWith("Listening")) this._by("take-hint").textContent = "Not measured; the latency stays as it was.";
    button.ariaBusy = "false";
  }

  async _clicks(context, microphone) {
    const probe = new Float32Array(await (await ask("/latency")).arrayBuffer());
    const buffer = context.createBuffer(1, probe.length, RATE);
    buffer.copyToChannel(probe, 0);
    const source = context.createBufferSource();
    source.buffer = buffer;
    source.connect(context.destination);
    microphone.hear(source);
    const from = Math.ceil((context.currentTime + 0.3) * RATE);
    const heard = new Float32Array(probe.length + PROBE_ROOM_S * RATE);
    const done = new Promise((resolve) => {
      microphone.addEventListener("samples", (event) => {
        const { frame, samples } = event.detail;
        const at = frame - from;
        for (let i = Math.max(0, -at); i < samples.length && at + i < heard.length; i += 1) heard[at + i] = samples[i];
        if (at + samples.length >= heard.length) resolve();
      });
    });
    source.start(from / RATE);
    await done;
    const token = document.querySelector("meta[name=csrf]").content;
    const answer = await ask("/latency", { method: "POST", headers: { "Content-Type": "application/octet-stream", "X-CSRFToken": token }, body: new Blob([heard]) });
    return answer.json();
  }

  // — takes in hand —

  async list() {
    await restSent;
    const found = await saying(() => getJson(`${this._pageDoc.url}/takes`));
    this.count = found?.takes.length;
    const mine = this._recorder.take?.token;
    this._by("takes").replaceChildren(...(found?.takes ?? []).filter((take) => take.token !== mine).map((take) => this._row(take)));
  }

  _row(take) {
    const row = document.createElement("li");
    const words = document.createElement("span");
    const broken = take.state === "recording" ? " · broken off, nothing lost" : "";
    words.innerHTML = '<strong></strong> <span class="figure quiet small"></span>';
    words.querySelector("strong").textContent = take.name;
    words.querySelector("span").textContent = `${clock(take.length_n, 1)} from ${clock(take.at_n, 2)}${broken}`;
    const listen = this._button("Listen", take, () => this._listen(take, listen));
    row.append(
      words, listen,
      this._button("Keep", take, () => this._keep(take), "btn btn-ink small"),
      this._button("Discard", take, () => this._discard(take)),
    );
    return row;
  }

  _button(text, take, run, look = "btn-line small") {
    const button = document.createElement("button");
    button.type = "button";
    button.className = look;
    button.textContent = text;
    button.setAttribute("aria-label", `${text} ${take.name}`);
    button.addEventListener("click", async () => {
      if (button.ariaBusy === "true") return;
      button.ariaBusy = "true";
      await run();
      button.ariaBusy = "false";
    });
    return button;
  }

  async _listen(take, button) {
    const again = this._audio && !this._audio.paused;
    this._audio?.pause();
    button.textContent = "Listen";
    if (again) return;
    await saying(async () => {
      if (take.state === "recording") await sendJson(`/takes/${take.token}/finish`);
      this._audio = new Audio(`/takes/${take.token}/sound?${take.length_n}`);
      this._audio.addEventListener("pause", () => (button.textContent = "Listen"));
      button.textContent = "Stop";
      await this._audio.play();
    });
  }

  async _keep(take) {
    this._audio?.pause();
    const lane = this._by("take-lane").value;
    await saying(async () => {
      await sendJson(`/takes/${take.token}/keep`, { lane_id: lane ? Number(lane) : null });
      say(`${take.name} is kept; it lands where it was spoken.`);
    });
    await this.list();
    await this._busy.poll();
  }

  async _discard(take) {
    this._audio?.pause();
    await saying(() => sendJson(`/takes/${take.token}`, {}, "DELETE"));
    await this.list();
  }
}
