// Finding files that are missing: chosen one by one, several at once, or in a folder.

import { say } from "../ground/said.js";

const stem = (name) => name.replace(/\.[^.]+$/, "").toLowerCase();

export class MissingFiles {
  /** `send(file, relink)` uploads a file that is one of the missing ones: "any", or the number of that one. */
  constructor({ pageDoc, send }) {
    this._pageDoc = pageDoc;
    this._send = send;
    document.addEventListener("change", (event) => this._chosen(event.target));
    document.addEventListener("click", ({ target }) => target.matches?.("input[data-relink]") && this._hold(target));
  }

  /** While a file is being chosen the list may be drawn anew; what is chosen then counts all the same. */
  _hold(input) {
    input.addEventListener("change", () => !input.isConnected && this._chosen(input), { once: true });
  }

  _chosen(input) {
    if (input.type !== "file" || !input.files.length) return;
    const files = [...input.files];
    if (input.dataset.relink) this._send(files[0], Number(input.dataset.relink));
    else if (input.id === "relink") for (const file of files) this._send(file, "any");
    else if (input.id === "relink-folder") this._search(files);
    else return;
    input.value = "";
  }

  /** Of a folder only what is called like something missing is sent; of several of one name the first. */
  _search(files) {
    const names = Object.values(this._pageDoc.doc.media).filter((medium) => medium.missing).map((medium) => medium.name);
    const found = names.map((name) => files.find((file) => file.name.toLowerCase() === name.toLowerCase()) ?? files.find((file) => stem(file.name) === stem(name)));
    const those = new Set(found.filter(Boolean));
    for (const file of those) this._send(file, "any");
    if (!those.size) say(`None of the ${files.length} files in that folder is called like one that is missing. Choose the files themselves: they are known by their content, too.`, { trouble: true });
  }
}
