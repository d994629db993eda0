// Play, ducked or plain, loop, passage before and after, meter; the lantern in the corner glows with the music.

import { awake } from "../ground/awake.js";
import { ClockField } from "./clock_field.js";
import { fitted } from "../ground/canvas.js";
import { gainAt } from "../plain/curve.js";
import { openMenu } from "../ground/menu.js";
import { say, saying } from "../ground/said.js";
import { RATE, amplitude, clock, figure } from "../plain/units.js";
import { faster } from "../plain/windows.js";

const FLOOR_DB = -54;
const METER_W = 108;
const ONLY = { speech: "Speech", music: "Music", taken: "Taken away" };
const BEFORE_N = 1.2 * RATE;
const AFTER_N = 1.8 * RATE;
const FALL_DB = 1.4; // per frame
const HOLD_FRAMES = 70;

export class Transport {
  constructor({ player, picture, timeline, pageDoc, selection, recorder }) {
    this.player = player;
    this._recorder = recorder;
    this.picture = picture;
    this.timeline = timeline;
    this.pageDoc = pageDoc;
    this.selection = selection;
    this._by = (id) => document.getElementById(id);
    this._bars = [FLOOR_DB, FLOOR_DB];
    this._held = { db: FLOOR_DB, frames: 0 };
    this._clipped = false;
    this._wire();
    awake.add(() => this._frame());
  }

  _wire() {
    this._clock = new ClockField(this._by("now"), { pageDoc: this.pageDoc, goTo: (time_n) => this.goToTime(time_n) });
    this._by("play").addEventListener("click", () => this.toggle());
    for (const variant of ["ducked", "plain"]) {
      this._by(`hear-${variant}`).addEventListener("click", () => this.hear(variant));
    }
    this._by("hear-only").addEventListener("click", () => this.listenMenu());
    this._by("loop").addEventListener("click", () => this.toggleLoop());
    this._by("passage-before").addEventListener("click", () => this.step(-1));
    this._by("passage-after").addEventListener("click", () => this.step(1));
    this._by("clip-mark").addEventListener("click", () => document.dispatchEvent(new Event("jay:unclip")));
    document.addEventListener("jay:unclip", () => {
      this._setClipped(false);
      for (const lane of document.querySelectorAll(".lane-level.clipped")) lane.classList.remove("clipped");
    });
    this._by("zoom-in").addEventListener("click", () => this.timeline.zoom(1 / 1.6, this.player.now_n));
    this._by("zoom-out").addEventListener("click", () => this.timeline.zoom(1.6, this.player.now_n));
    this._by("zoom-fit").addEventListener("click", () => this.timeline.fit());
    this.timeline.addEventListener("seek", (event) => this.player.seek(event.detail));
    this.player.addEventListener("trouble", (event) => say(event.detail, { trouble: true }));
    this.player.addEventListener("state", () => this._state());
    this.pageDoc.addEventListener("change", (event) => {
      awake.wake();
      this._by("length").textContent = clock(this.pageDoc.doc.length_n);
      if (event.detail.fresh) this._changed();
    });
  }

  _changed() {
    if (this.player.loop && !this._ranged) this._loopChosen();
    this.player.refresh();
    if (!this.player.playing) this.player.seek(this.player.now_n);
  }

  /** Play on (1) or back (−1), faster with each press; 0 stops. */
  shuttle(way) {
    if (!this.pageDoc.doc.length_n) say("There is nothing to play yet. Bring in files first.");
    else if (way) this.player.shuttle(this.player.playing ? faster(this.player.rate, way) : way);
    else this.player.pause();
  }

  /** Play or pause; while a take is recorded, also beyond the end of the film, that is what ends. */
  toggle() {
    if (this._recorder.active) this._recorder.askStop();
    else if (this.player.playing) this.player.pause();
    else if (!this.pageDoc.doc.length_n) say("There is nothing to play yet. Bring in files first.");
    else this.player.play();
  }

  hear(variant) {
    this.player.setVariant(variant);
    for (const each of ["ducked", "plain"]) this._by(`hear-${each}`).setAttribute("aria-pressed", each === variant);
    this._by("hear-only").setAttribute("aria-pressed", variant in ONLY);
    this._by("hear-only").textContent = ONLY[variant] ?? "Only …";
  }

  /** What else can be heard: one part alone, and plain as loud as ducked. */
  listenMenu() {
    const box = this._by("hear-only").getBoundingClientRect();
    const words = { speech: "Speech alone", music: "Music alone, ducked", taken: "Only what is taken away" };
    const items = [
      ...Object.entries(words).map(([variant, label]) => ({ label, on: this.player.variant === variant, run: () => this.hear(variant) })),
      null,
      { label: "Plain as loud as ducked", keys: "Shift+B", on: this.player.matched, run: () => this.match() },
    ];
    openMenu({ x: box.left, y: box.bottom + 4 }, items, "What is heard");
  }

  async match() {
    if (!this.pageDoc.weighed) {
      this.pageDoc.weighed = true;
      await saying(() => this.pageDoc.load());
    }
    this.player.setMatched(!this.player.matched);
    const by = Math.abs(this.pageDoc.doc.match_db);
    say(this.player.matched ? `Ducked and plain are played equally loud: ${figure(by, 1)} dB are evened out.` : "Ducked and plain are played as they are.");
  }

  /** The playhead to a time, and the time into view. */
  goToTime(time_n) {
    this.player.seek(time_n);
    this.timeline.reveal(this.player.now_n);
  }

  /** Choose a passage and go just before it. */
  goTo(index) {
    const passage = this.pageDoc.doc.passages[index];
    if (!passage) return;
    this.selection.choosePassage(index);
    if (this.player.loop) this._loopChosen();
    this._goBefore(passage.start_n);
  }

  /** Take a stretch in hand that was said to be no speech, and go just before it. */
  goToAside(start_n, stop_n) {
    this.selection.chooseAside(start_n, stop_n);
    this._goBefore(start_n);
  }

  _goBefore(start_n) {
    this.player.park(start_n, Math.max(0, start_n - BEFORE_N));
    this.timeline.reveal(start_n);
  }

  /** The next passage (1) or the one before (−1), seen from the playhead. */
  step(way) {
    const { passages } = this.pageDoc.doc;
    if (!passages.length) {
      say("There is no passage yet: tag a lane with speech as dialogue.");
      return;
    }
    const now = this.player.now_n + (this.player.playing ? BEFORE_N : 0);
    const slack = 0.05 * RATE;
    const index =
      way > 0
        ? passages.findIndex((each) => each.start_n > now + slack)
        : passages.findLastIndex((each) => each.start_n < now - slack);
    if (index >= 0) this.goTo(index);
  }

  toggleLoop() {
    if (this.player.loop) this.player.setLoop(null);
    else if (this.pageDoc.doc.passages[this.selection.passage]) this._loopChosen();
    else say("There is no passage to loop yet.");
  }

  /** Loop from the in point to the out point, or no more. */
  loopRange() {
    const { in_n, out_n, length_n } = this.pageDoc.doc;
    const range = [in_n ?? 0, Math.min(out_n ?? length_n, length_n)];
    if (this.player.loop) this.player.setLoop(null);
    else if (in_n === null && out_n === null) say("Set the in and the out point first, under Markers or with their keys.");
    else if (range[1] - range[0] < RATE / 10) say("There is too little between the in and the out point to loop.");
    else this._loop(range, true);
  }

  _loop(stretch, ranged) {
    this._ranged = ranged;
    this.player.setLoop(stretch);
  }

  _loopChosen() {
    const passage = this.pageDoc.doc.passages[this.selection.passage];
    if (!passage) {
      this.player.setLoop(null);
      return;
    }
    const start_n = Math.max(0, Math.min(passage.dip.from_n, passage.start_n) - BEFORE_N);
    const stop_n = Math.min(this.pageDoc.doc.length_n, passage.dip.up_n + AFTER_N);
    this._loop([Math.round(start_n), Math.round(stop_n)], false);
  }

  _state() {
    awake.wake();
    document.body.classList.toggle("playing", this.player.playing);
    this._by("loop").setAttribute("aria-pressed", Boolean(this.player.loop));
  }

  _frame() {
    if (this.pageDoc.doc) {
      const now = this.player.now_n;
      if (this.player.playing) this.timeline.reveal(now);
      this.timeline.showPlayhead(now);
      this.timeline.captions.show(now);
      this.picture.show(now, this.player.playing && this.player.rate === 1);
      this._clock.show(now);
      this._light(now);
      this._meter();
    }
    return this.player.playing || this._falling;
  }

  /** Do the bars of the meter still come down? */
  get _falling() {
    return this._held.db > FLOOR_DB || this._bars.some((db) => db > FLOOR_DB);
  }

  _light(now) {
    const curve = this.pageDoc.leading;
    const glow = (curve && this.player.variant === "ducked" ? amplitude(gainAt(curve, now)) : 1).toFixed(2);
    if (glow === this._glow) return;
    this._glow = glow;
    this._by("lantern").style.setProperty("--glow", glow);
  }

  _meter() {
    const level = this.player.level;
    this.timeline.showLevels(level?.lanes);
    const peaks = level?.peaks ?? [0, 0];
    this._bars = this._bars.map((bar, i) => Math.max(20 * Math.log10(Math.max(peaks[i], 1e-6)), bar - FALL_DB, FLOOR_DB));
    const top = Math.max(...this._bars);
    this._held.frames -= 1;
    if (top >= this._held.db || this._held.frames <= 0) this._held = { db: top, frames: HOLD_FRAMES };
    this._drawMeter();
    this._markClip(level);
    const said = level ? `${figure(level.lufs, 1)} LUFS · ${figure(level.dbtp, 1)} dBTP` : "—";
    if (this._by("meter-said").textContent !== said) this._by("meter-said").textContent = said;
  }

  /** Lights where a sample reaches full scale, or the mix as it is heard passes its ceiling; stays until it is put out. */
  _markClip(level) {
    const ceiling = this.pageDoc.doc.settings.ceiling_dbtp;
    const limited = this.player.variant === "ducked";
    if (!level || this._clipped || !(Math.max(...level.peaks) >= 1 || (limited && level.dbtp > ceiling + 0.05))) return;
    this._setClipped(true);
  }

  _setClipped(clipped) {
    this._clipped = clipped;
    const mark = this._by("clip-mark");
    mark.disabled = !clipped;
    mark.firstElementChild.textContent = clipped ? "Clip mark: lit. Put it out" : "Clip mark: off";
  }

  /** Drawn where it has moved: a page that stands still costs next to nothing. */
  _drawMeter() {
    const held = this._held.db > FLOOR_DB + 1 ? this._held.db : null;
    const shown = [...this._bars, held, devicePixelRatio].join(" ");
    if (shown === this._shown) return;
    this._shown = shown;
    const [width, height] = [METER_W, 14];
    const context = fitted(this._by("meter"), width, height);
    const x = (db) => (width * (Math.min(db, 0) - FLOOR_DB)) / -FLOOR_DB;
    this._bars.forEach((db, i) => {
      const y = i * 8;
      context.fillStyle = "#DDD5C4";
      context.fillRect(0, y, width, 6);
      context.fillStyle = "#5D8750";
      context.fillRect(0, y, x(Math.min(db, -9)), 6);
      context.fillStyle = "#E09A1F";
      if (db > -9) context.fillRect(x(-9), y, x(Math.min(db, -1)) - x(-9), 6);
      context.fillStyle = "#C2452F";
      if (db > -1) context.fillRect(x(-1), y, x(db) - x(-1), 6);
    });
    if (held !== null) {
      context.fillStyle = "#1F2A37";
      context.fillRect(x(held) - 1, 0, 2, height);
    }
  }
}
