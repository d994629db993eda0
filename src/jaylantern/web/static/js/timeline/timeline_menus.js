// The menus of the timeline: of the chosen clips, of a lane, of a point or the line of a curve.

import { CLIP_MENU } from "./clip_menus.js";
import { laneItems } from "./lane_menu.js";
import { menuItems, openMenu } from "../ground/menu.js";
import { saying } from "../ground/said.js";

const LINE_MENU = ["line-decibel", "line-amplitude", "line-eased", null, "line-half", "line-clear", null, "line-into-ducking"];
const CURVE_DEEDS = { "point-freeze": "freeze_curve", "point-clear": "clear_curve", "point-lift": "follow_speech" };

export class TimelineMenus {
  /** @param {{timeline: import("./timeline.js").Timeline, pageDoc: any, selection: any, actions: any[]}} parts */
  constructor({ timeline, pageDoc, selection, actions }) {
    this._timeline = timeline;
    this._pageDoc = pageDoc;
    this._selection = selection;
    this._actions = actions;
    timeline.addEventListener("menu", (/** @type {CustomEvent} */ { detail: { of, at, hit, point, lane_id } }) => {
      if (of === "clips") this._ofClips(at);
      else if (of === "point") this._ofPoint(at, hit, point);
      else this._ofLane(lane_id, at);
    });
  }

  /** @param {{x: number, y: number}} at CSS pixels of the page */
  _ofClips(at) {
    openMenu(at, menuItems(this._actions, CLIP_MENU), "Chosen clips");
  }

  /** The menu of a point, or of the line of a curve. */
  _ofPoint(at, hit, point) {
    const { points } = this._timeline;
    const here =
      point.index === null
        ? { label: "Add a point here", run: () => points.add(hit.lane.id, point.name, hit.time_n) }
        : { label: "Exact values …", keys: "E", off: points.chosen.size !== 1, run: () => points.exact() };
    if (this._selection.hand === "line") {
      const remove = { label: "Take away", keys: "Delete", off: point.index === null, run: () => points.remove() };
      openMenu(at, [here, remove, null, ...menuItems(this._actions, LINE_MENU)], "Gain line");
      return;
    }
    const whole = Object.entries(CURVE_DEEDS).map(([id, deed]) => ({
      label: this._actions.find((each) => each.id === id).short,
      run: () => saying(() => this._pageDoc.do(deed, { lane_id: hit.lane.id })),
    }));
    openMenu(at, [here, { label: "Take away", keys: "Delete", off: point.index === null, run: () => points.remove() }, null, ...whole], "Curve");
  }

  _ofLane(lane_id, at) {
    const lane = this._pageDoc.lane(lane_id);
    const items = laneItems({ pageDoc: this._pageDoc, selection: this._selection, timeline: this._timeline }, lane);
    openMenu(at ?? this._timeline.headOf(lane_id), items, `Lane ${lane.name}`);
  }
}
