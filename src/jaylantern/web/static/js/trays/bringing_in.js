// Bringing files in: dropped anywhere on the page or picked; where they land is said beside the button.

import { newGesture } from "../ground/gesture.js";
import { Landing } from "./landing.js";
import { MissingFiles } from "./missing_files.js";
import { Upload, takeDrops } from "../ground/uploads.js";

const PLACE = "jay-lantern: new files land";
const by = (id) => document.getElementById(id);

export class BringingIn {
  /** @param {{pageDoc: any, selection: any, player: any, timeline: any, busy: any, ready: Promise<unknown>}} parts `ready`: the document is there */
  constructor({ pageDoc, selection, player, timeline, busy, ready }) {
    this._pageDoc = pageDoc;
    this._selection = selection;
    this._player = player;
    this._timeline = timeline;
    this._busy = busy;
    this._ready = ready;
    this._landing = new Landing();
    takeDrops((files, event) => this.bring(files, event));
    new MissingFiles({ pageDoc, send: (file, relink) => this._send(new Upload(file, pageDoc.doc.id, 0, { relink })) });
    by("pick").addEventListener("change", () => this._takePicked());
    this._takePicked(); // what was chosen before this script was there
  }

  /** How a medium of the project is placed once more: as files land. */
  get placing() {
    const { how } = this._landing;
    return { how, ...(how === "own" ? {} : { lane_id: this._laneOfLead ?? null }) };
  }

  /** The tray has come: its choice of where new files land. */
  furnish() {
    const place = by("place");
    if (!place) return;
    place.value = localStorage.getItem(PLACE) ?? place.value;
    place.addEventListener("change", () => localStorage.setItem(PLACE, place.value));
    const show = () => (by("landing").textContent = `${this._landing.words} …`);
    by("landing").addEventListener("click", () => this._landing.menu(by("landing"), show));
    show();
  }

  /** Bring files in, in their order: where they are dropped, else where it was chosen. */
  async bring(files, event = null) {
    await this._ready;
    const { how } = this._landing;
    const { doc } = this._pageDoc;
    const place = localStorage.getItem(PLACE) ?? "playhead";
    const hit = event && how !== "own" ? this._timeline.hit(event) : null; // dropped on a lane: there
    const at_n = Math.round(hit?.time_n ?? { end: doc.length_n, playhead: this._player.now_n, start: 0 }[place]);
    const lane_id = hit?.lane.id ?? (how === "own" ? null : this._laneOfLead);
    const batch = newGesture();
    const uploads = files.map((file) => new Upload(file, doc.id, at_n, this._landing.values(files.length, batch, lane_id)));
    for (const upload of uploads) this._busy.add(upload);
    for (const upload of uploads) await upload.run();
  }

  get _laneOfLead() {
    return this._pageDoc.clip(this._selection.lead)?.lane.id;
  }

  _send(upload) {
    this._busy.add(upload);
    upload.run();
  }

  _takePicked() {
    if (by("pick").files.length) this.bring([...by("pick").files]);
    by("pick").value = "";
  }
}
