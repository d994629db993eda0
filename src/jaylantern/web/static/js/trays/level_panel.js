// The Level tray: what was measured goes to the strip under the lanes; matching; the table of targets.

import { sendForText } from "../ground/api.js";
import { DropCard } from "../ground/drop_card.js";
import { say, saying } from "../ground/said.js";
import { tell } from "../ground/tell.js";
import { typed } from "../plain/typed.js";

const BAND = "jay-lantern: peak band";
const UNITS = { loudness: "LUFS", true_peak: "dBTP", sample_peak: "dBFS" };

export class LevelPanel {
  constructor(tray, { pageDoc, selection, timeline }) {
    this._tray = tray;
    this._pageDoc = pageDoc;
    this._selection = selection;
    this._timeline = timeline;
    this._form = tray.querySelector("#match");
    this._stop = new AbortController();
    const options = { signal: this._stop.signal };
    tray.addEventListener("htmx:afterSettle", (event) => event.target.id === "measured" && this._measured(), options);
    tray.addEventListener("click", (event) => this._click(event), options);
    this._form.addEventListener("submit", (event) => event.preventDefault(), options);
    this._form.addEventListener("change", (event) => this._changed(event.target), { ...options, capture: true });
    selection.addEventListener("change", () => this._chosen(), options);
    const card = new DropCard({ button: tray.querySelector("#show-targets"), name: "Targets", url: () => `${pageDoc.url}/targets` });
    card.box.addEventListener("click", (event) => this._target(event));
    card.box.addEventListener("submit", (event) => this._add(event));
    this._card = card;
    this._band = tray.querySelector("#peak-band");
    this._band.addEventListener("click", () => this._showBand(this._band.getAttribute("aria-pressed") !== "true"));
    this._showBand(localStorage.getItem(BAND) === "true");
    this._chosen();
    this._measured();
  }

  destroy() {
    this._stop.abort();
    this._card.destroy();
    this._timeline.loudness.show(null);
    document.body.classList.remove("peak-band");
  }

  /** The band in which peaks of a lane are usually put, on the meters and in the table. */
  _showBand(shown) {
    localStorage.setItem(BAND, shown);
    this._band.setAttribute("aria-pressed", shown);
    document.body.classList.toggle("peak-band", shown);
  }

  _measured() {
    const data = document.getElementById("level-drawn");
    if (data) this._timeline.loudness.show(JSON.parse(data.textContent));
  }

  /** The chosen clips go into the form; what is previewed of them is asked for anew. */
  _chosen() {
    const field = this._form.elements.clip_ids;
    const ids = [...this._selection.clips].join();
    if (field.value === ids) return;
    field.value = ids;
    if (this._form.elements.subject.value === "chosen") tell("jay:chosen");
  }

  /** Another subject or measure has another usual target. */
  _changed(field) {
    const { subject, by, target, how } = this._form.elements;
    if (field === subject || field === by) {
      const { target_lufs, ceiling_dbtp } = this._pageDoc.doc.settings;
      target.value = String(by.value === "loudness" ? target_lufs - (subject.value === "music" ? 4 : 0) : ceiling_dbtp).replace("-", "−");
    }
    this._tray.querySelector("#match-unit").textContent = UNITS[by.value];
    how.disabled = subject.value === "mix" || subject.value === "soft";
  }

  _click(event) {
    const button = event.target.closest("[data-match]");
    if (!button) return;
    const { subject, by, target, how, clip_ids } = this._form.elements;
    const asked =
      button.dataset.match === "form"
        ? { subject: subject.value, by: by.value, target: target.value, how: how.value, clip_ids: clip_ids.value.split(",").filter(Boolean).map(Number) }
        : JSON.parse(button.dataset.match);
    saying(() => this._pageDoc.do("match", asked));
  }

  _target(event) {
    const { dataset } = event.target.closest("[data-target], [data-target-remove]") ?? {};
    if (!dataset) return;
    if (dataset.targetRemove) this._send(`targets/${dataset.targetRemove}/remove`, {});
    else {
      saying(() => this._pageDoc.do("set_settings", { settings: JSON.parse(dataset.target) }));
      this._card.close();
    }
  }

  _add(event) {
    event.preventDefault();
    const { name, lufs, dbtp, source } = event.target.elements;
    const figures = [typed(lufs.value, "LUFS"), typed(dbtp.value, "dBTP")];
    if (figures.some(Number.isNaN)) say("A target needs a loudness in LUFS and a true peak in dBTP, both as numbers.", { trouble: true });
    else this._send("targets", { name: name.value, lufs: figures[0], dbtp: figures[1], source: source.value });
  }

  async _send(path, value) {
    const text = await saying(() => sendForText(`${this._pageDoc.url}/${path}`, value));
    if (text) this._card.fill(text);
  }
}
