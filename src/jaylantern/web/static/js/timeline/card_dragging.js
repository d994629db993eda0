// A card of the media, dragged onto the lanes: it is laid where it is let go, on the lane under the pointer.

import { LANDING_WORDS, landingOf } from "./gestures.js";
import { saying } from "../ground/said.js";
import { places, snappedBy } from "../plain/snapping.js";
import { clock } from "../plain/units.js";

const KIND = "application/x-jay-lantern-media";

export class CardDragging {
  /** @param {{pageDoc: any, timeline: any}} parts */
  constructor({ pageDoc, timeline }) {
    this._pageDoc = pageDoc;
    this._timeline = timeline;
    const lanes = timeline.lanesElement;
    document.addEventListener("dragstart", (event) => this._begin(event));
    lanes.addEventListener("dragover", (event) => this._over(event));
    lanes.addEventListener("dragleave", () => timeline.endPreview());
    lanes.addEventListener("drop", (event) => this._drop(event));
  }

  _begin(event) {
    const card = event.target.closest?.("[data-card]");
    if (!card) return;
    event.dataTransfer.setData(KIND, card.dataset.card);
    event.dataTransfer.effectAllowed = "copyMove";
  }

  /** The lane under the pointer and the time there, snapped; null beside the lanes. */
  _at(event) {
    const hit = this._timeline.hit(event);
    if (!hit) return null;
    const targets = places(this._pageDoc.doc, { moving: new Set(), playhead_n: this._timeline.playhead_n });
    const near = snappedBy(event, this._timeline, 0, [hit.time_n], targets);
    return { lane: hit.lane, time_n: Math.max(0, hit.time_n + near.by_n), at_n: near.at_n };
  }

  _over(event) {
    if (!event.dataTransfer.types.includes(KIND)) return;
    event.preventDefault();
    const at = this._at(event);
    if (at) this._timeline.showPreview({ at_n: at.at_n ?? at.time_n, word: `${LANDING_WORDS[landingOf(event)]}${at.lane.name} · ${clock(at.time_n, 2)}` });
  }

  _drop(event) {
    const media_id = Number(event.dataTransfer.getData(KIND));
    const at = this._at(event);
    this._timeline.endPreview();
    if (!media_id || !at) return;
    event.preventDefault();
    saying(() => this._pageDoc.do("place", { media_id, at_n: at.time_n, lane_id: at.lane.id, how: landingOf(event) }));
  }
}
