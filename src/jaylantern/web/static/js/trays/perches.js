// The amounts of pecking pairs, typed where the perches are drawn.

import { done } from "../ground/focus_keeper.js";
import { KeyRun } from "../ground/gesture.js";
import { sendTyped } from "../ground/half_typed.js";
import { say, saying } from "../ground/said.js";
import { typed, understood } from "../plain/typed.js";

/** An amount in dB or %, or a clearance in LU or as the index: as typed, else as the field says. */
function unitOf(field) {
  const typed = /(lu|sii|db|%)\s*$/i.exec(field.value)?.[1].toLowerCase();
  return { lu: "LU", sii: "SII", db: "dB", "%": "dB" }[typed] ?? field.dataset.pairUnit;
}

const NAMES = { dB: "amount_db", LU: "wish_lu", SII: "wish_sii" };

export class Perches {
  constructor(pageDoc) {
    this._pageDoc = pageDoc;
    this._run = new KeyRun();
    this._wireDragging();
    document.addEventListener("change", (event) => "pairUpper" in event.target.dataset && this._set(event.target));
    document.addEventListener("keydown", (event) => {
      /** @type {any} */
      const field = event.target;
      if (!("pairUpper" in (field.dataset ?? {}))) return;
      const way = { ArrowUp: 0.5, ArrowDown: -0.5 }[event.key];
      if (event.key === "Enter") done(field);
      if (!way) return;
      event.preventDefault();
      const unit = unitOf(field);
      const value = typed(field.value, unit);
      if (Number.isNaN(value)) return;
      const next = value + way * (event.shiftKey ? 6 : 1) * (unit === "SII" ? 0.02 : 1);
      field.value = `${unit === "dB" ? Math.min(0, next) : Math.max(0, Number(next.toFixed(2)))} ${unit}`.replace("-", "−");
      this._set(field, this._run.of(field.id));
    });
  }

  /** A perch is dragged to another place in the order, a lane onto the perch of another tag. */
  _wireDragging() {
    let dragged = null;
    const over = (event) => event.target.closest?.("[data-perch]");
    const mark = (at) => document.querySelectorAll(".perch-over").forEach((each) => each !== at && each.classList.remove("perch-over"));
    document.addEventListener("dragstart", (event) => {
      const lane = event.target.closest?.("[data-perched]");
      const perch = event.target.closest?.("[data-perch]");
      dragged = lane ? { lane_id: Number(lane.dataset.perched) } : perch ? { perch: perch.dataset.perch } : null;
      if (dragged) event.dataTransfer.setData("text/plain", perch?.dataset.perch ?? "");
    });
    document.addEventListener("dragover", (event) => {
      const at = dragged && over(event);
      mark(at);
      if (!at || (dragged.lane_id && !at.dataset.perchTag)) return;
      event.preventDefault();
      at.classList.add("perch-over");
    });
    document.addEventListener("drop", (event) => {
      const at = dragged && over(event);
      mark(null);
      if (!at) return;
      event.preventDefault();
      const { perch, lane_id } = dragged;
      if (lane_id) saying(() => this._pageDoc.do("tag_lane", { lane_id, tag: at.dataset.perchTag }));
      else if (perch !== at.dataset.perch) saying(() => this._pageDoc.do("move_perch", { perch, to: Number(at.dataset.rank) }));
    });
    document.addEventListener("dragend", () => {
      dragged = null;
      mark(null);
    });
  }

  _set(field, gesture) {
    const unit = unitOf(field);
    const value = typed(field.value, unit);
    if (Number.isNaN(value)) {
      say(`“${field.value}” is not understood here: type ${understood(unit)}. The amount stays as it was.`, { trouble: true });
      field.value = field.defaultValue;
      return;
    }
    const { pairUpper: upper, pairLower: lower } = field.dataset;
    sendTyped(field, () => this._pageDoc.do("set_pair", { upper, lower, own: { [NAMES[unit]]: unit === "dB" ? -Math.abs(value) : value }, gesture }));
  }
}
