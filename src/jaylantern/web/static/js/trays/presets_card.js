// The card of presets: take one over, keep, rename, remove, bring in and take away as a file, copy from another project.

import { sendForText } from "../ground/api.js";
import { DropCard } from "../ground/drop_card.js";
import { say, saying } from "../ground/said.js";

/** A card that follows the project while it is open: with settings in it, and with buttons that are the page's own. */
export class PartCard {
  /** @param {HTMLButtonElement} button @param {{pageDoc: any, name: string, url: string, furnish?: (box: HTMLElement) => void}} how */
  constructor(button, { pageDoc, name, url, furnish }) {
    this._card = new DropCard({ button, name, url: () => url, shown: furnish });
    this._stop = new AbortController();
    pageDoc.addEventListener("change", () => this._card.open && this._card.fetch(), { signal: this._stop.signal });
  }

  destroy() {
    this._stop.abort();
    this._card.destroy();
  }
}

export class PresetsCard extends PartCard {
  constructor(button, { pageDoc }) {
    const url = `${pageDoc.url}/presets`;
    super(button, { pageDoc, name: "Presets", url });
    this._pageDoc = pageDoc;
    this._url = url;
    const { box } = this._card;
    box.addEventListener("click", (event) => this._click(event));
    box.addEventListener("submit", (event) => this._submit(event));
    box.addEventListener("change", (event) => event.target.id === "preset-file" && this._bringIn(event.target));
  }

  /** Send a change of the list; the answer is the new one. */
  async _send(path, value) {
    const text = await saying(() => sendForText(`${this._url}/${path}`, value));
    if (text) this._card.fill(text);
    return Boolean(text);
  }

  _click(event) {
    const { dataset } = event.target.closest("[data-preset], [data-preset-rename], [data-preset-remove], [data-preset-back]") ?? {};
    if (!dataset) return;
    if (dataset.preset) saying(() => this._pageDoc.do("apply_preset", JSON.parse(dataset.preset)));
    else if (dataset.presetRemove) this._send(`${dataset.presetRemove}/remove`, {});
    else if (dataset.presetBack) this._send("keep", JSON.parse(dataset.presetBack));
    else this._rename(event.target.closest("li"), dataset);
  }

  _rename(row, dataset) {
    const field = document.createElement("input");
    Object.assign(field, { className: "field small", value: dataset.name, maxLength: 80 });
    field.setAttribute("aria-label", `New name of ${dataset.name}`);
    row.querySelector(".preset").replaceWith(field);
    field.select();
    field.addEventListener("change", () => this._send(`${dataset.presetRename}/rename`, { name: field.value }));
    field.addEventListener("keydown", (key) => key.key === "Enter" && field.select());
  }

  async _submit(event) {
    event.preventDefault();
    const values = Object.fromEntries(new FormData(event.target));
    if (event.target.id === "preset-copy") {
      saying(() => this._pageDoc.do("duck_as_in", { project_id: Number(values.from_id) }));
    } else if (await this._send("keep", { name: values.name })) {
      say(`Kept as ${values.name}.`);
    }
  }

  async _bringIn(input) {
    const [file] = input.files;
    if (file && (await this._send("keep", { text: await file.text() }))) say(`Presets of ${file.name} brought in.`);
    input.value = "";
  }
}
