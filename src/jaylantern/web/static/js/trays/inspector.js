// Lay out: what is chosen and how it sounds; with several clips the fields set all of them.

import { FigureField } from "../ground/figure_field.js";
import { nearestFrame } from "../plain/frames.js";
import { release } from "../ground/focus_keeper.js";
import { saying } from "../ground/said.js";
import { typed } from "../plain/typed.js";
import { RATE, amplitude, clock, figure } from "../plain/units.js";

export class Inspector {
  constructor(element, { pageDoc, selection, act, timeline }) {
    this._element = element;
    this._pageDoc = pageDoc;
    this._selection = selection;
    this._act = act;
    this._timeline = timeline;
    this._stop = new AbortController();
    const options = { signal: this._stop.signal };
    pageDoc.addEventListener("change", () => this.show(), options);
    selection.addEventListener("change", () => this.show(), options);
    this._by = (id) => element.querySelector(`#${id}`);
    this._wire();
    this.show();
  }

  destroy() {
    this._stop.abort();
  }

  get _clips() {
    return this._pageDoc.doc.lanes
      .filter((lane) => lane.kind === "sound")
      .flatMap((lane) => lane.clips)
      .filter((clip) => this._ids.has(clip.id));
  }

  /** The chosen clips and what is linked with them. */
  get _ids() {
    return new Set(this._pageDoc.together(this._selection.clips).map((clip) => clip.id));
  }

  _do(kind, values) {
    return saying(() => this._pageDoc.do(kind, { clip_ids: [...this._selection.clips], ...values }));
  }

  _wire() {
    this._wirePlace();
    /** @param {number} gain_db @param {{gesture?: string}} how */
    const gain = (gain_db, { gesture } = {}) => this._do("set_clips", { gain_db, gesture });
    this._gain = new FigureField(this._by("clip-gain"), {
      format: (value) => `${figure(value, 1)} dB`, unit: "dB", step: 0.5, what: "the gain", reset: () => gain(0), send: gain,
    });
    this._percent = new FigureField(this._by("clip-percent"), {
      format: (value) => `${figure(value, value < 100 ? 1 : 0)} %`, unit: "%", step: 5, what: "the gain", reset: () => gain(0),
      send: (percent, how) => gain(Number(typed(`${percent}%`, "dB").toFixed(3)), how),
    });
    this._fades = ["fade_in", "fade_out"].map((end) => {
      /** @param {number} seconds @param {{gesture?: string}} how */
      const send = (seconds, { gesture } = {}) => this._do("fade_clips", { end, length_n: Math.max(0, Math.round(seconds * RATE)), gesture });
      const shape = this._by(`${end}-shape`);
      shape.addEventListener("change", () => {
        this._do("fade_clips", { end, shape: shape.value });
        release(shape);
      });
      const field = new FigureField(this._by(end), {
        format: (value) => `${figure(value, 2)} s`, unit: "s", frame_s: () => this._pageDoc.frame_s, step: 0.05, what: "the fade", reset: () => send(0), send,
      });
      return { end, shape, field };
    });
    for (const button of this._element.querySelectorAll("[data-channels]")) {
      button.addEventListener("click", () => this._do("set_clips", { channels: button.dataset.channels }));
    }
    this._by("clip-mute").addEventListener("click", () => this._act("mute"));
    this._by("clip-bystander").addEventListener("click", () => this._act("bystander"));
    this._by("clip-link").addEventListener("click", () => this._act(this._linked ? "unlink" : "link"));
    this._by("clip-give").addEventListener("click", () => this._act("copy-sound"));
    this._by("clip-more").addEventListener("click", (event) => {
      const box = event.currentTarget.getBoundingClientRect();
      this._timeline.openMenu("clips", { x: box.left, y: box.bottom + 4 });
    });
  }

  /** Where the clip chosen last begins and ends, as fields that move and trim it. */
  _wirePlace() {
    const frame_s = () => this._pageDoc.frame_s;
    const lead = () => this._pageDoc.clip(this._selection.lead).clip;
    const common = { format: (value) => clock(value * RATE, 2), unit: "s", frame_s, step: frame_s(), reset: () => {} };
    this._begins = new FigureField(this._by("clip-begins"), {
      ...common,
      what: "the clip",
      send: async (seconds, { gesture }) => {
        const [first] = this._pageDoc.pictures(this._pageDoc.together(this._selection.clips)); // a picture goes from frame to frame
        const wanted_n = Math.round(seconds * RATE) - lead().start_n;
        const by_n = first?.fps ? nearestFrame(first.start_n + wanted_n, RATE / first.fps) - first.start_n : wanted_n;
        if (by_n) await this._do("move_clips", { by_n, gesture });
      },
    });
    this._ends = new FigureField(this._by("clip-ends"), {
      ...common,
      what: "the clip",
      send: (seconds, { gesture }) => this._do("trim_clips", { edge: "stop", to_n: Math.round(seconds * RATE), gesture }),
    });
  }

  get _linked() {
    return this._pageDoc.together(this._selection.clips).some((clip) => clip.link !== null);
  }

  show() {
    if (!this._pageDoc.doc) return;
    const count = this._selection.clips.size;
    this._by("chosen-none").hidden = count > 0;
    this._by("chosen-some").hidden = count === 0;
    this._by("chosen-title").textContent = count > 1 ? `${count} clips chosen` : "Chosen clip";
    if (count) this._fill(count);
  }

  _fill(count) {
    const { lane, clip } = this._pageDoc.clip(this._selection.lead);
    const clips = this._clips;
    this._begins.show(clip.start_n / RATE);
    this._ends.show((clip.start_n + clip.length_n) / RATE);
    this._by("clip-ends").disabled = count > 1;
    this._by("chosen-facts").replaceChildren(...facts(this._pageDoc, lane, clip, count));
    this._by("clip-sound").hidden = !clips.length;
    for (const id of ["clip-mute", "clip-bystander"]) this._by(id).hidden = !clips.length;
    this._by("clip-give").hidden = count < 2;
    this._by("clip-link").textContent = this._linked ? "Unlink" : "Link";
    this._by("clip-link").hidden = !this._linked && count < 2;
    if (!clips.length) return;
    const common = (read) => (clips.every((each) => read(each) === read(clips[0])) ? read(clips[0]) : NaN);
    const gain_db = common((each) => each.gain_db);
    this._gain.show(gain_db);
    this._percent.show(100 * amplitude(gain_db));
    for (const { end, shape, field } of this._fades) {
      field.show(common((each) => each[`${end}_n`]) / RATE);
      shape.value = common((each) => each[`${end}_shape`]) || "";
    }
    const stereo = clips.some((each) => this._pageDoc.doc.media[each.media_id].channels === 2);
    for (const button of this._element.querySelectorAll("[data-channels]")) {
      button.setAttribute("aria-pressed", clips.every((each) => each.channels === button.dataset.channels));
      button.disabled = !stereo;
      button.title = stereo ? "" : "Its file has one channel";
    }
    this._by("clip-mute").setAttribute("aria-pressed", clips.every((each) => each.muted));
    this._by("clip-bystander").setAttribute("aria-pressed", clips.every((each) => each.bystander));
  }
}

function facts(pageDoc, lane, clip, count) {
  const medium = pageDoc.doc.media[clip.media_id];
  const name = document.createElement("strong");
  name.textContent = clip.name;
  const silent = medium.sound_word === "silent" ? "its sound is silent" : "no sound";
  const sound = medium.sound_n ? medium.sound_word : silent;
  const tag = lane.kind === "picture" ? medium.picture_word : `${clip.shown_tag}${clip.tag ? " (its own tag)" : " (its lane's)"}, ${sound}`;
  const rest = count > 1 ? ` and ${count - 1} more` : ` · ${lane.name} · ${(clip.length_n / RATE).toFixed(2)} s · ${tag}`;
  return [name, rest];
}
