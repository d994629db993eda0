// The bar over the lanes while the gain line is in hand: whose it is, the chosen stretch, what can be done with whole lines.

import { FigureField } from "../ground/figure_field.js";
import { menuItems, openMenu } from "../ground/menu.js";
import { clock, figure } from "../plain/units.js";

const BUTTONS = ["stretch-range", "stretch-passage", "stretch-markers"];
const WHOLE = ["line-half", "line-double", "line-clear", null, "line-copy", "line-paste", null, "line-from-ducking", "line-into-ducking", null, "line-decibel", "line-amplitude", "line-eased"];

export class LineBar {
  /** @param {{element: HTMLElement, pageDoc: any, selection: any, timeline: any, actions: any[]}} parts */
  constructor({ element, pageDoc, selection, timeline, actions }) {
    this._parts = { element, pageDoc, selection, timeline };
    const button = (id) => {
      const { short, says } = actions.find((each) => each.id === id);
      return `<button type="button" data-act="${id}" title="${says}" data-keyed="${id}">${short}</button>`;
    };
    element.innerHTML = `<strong>Gain line</strong> <span class="line-of"></span><span class="line-part">Stretch ${BUTTONS.map(button).join("")}</span>
      <span class="line-part line-stretch" hidden><span class="figure line-span"></span> at <span class="knob-field figure"><input inputmode="decimal" autocomplete="off" aria-label="Level of the stretch"><span class="unit">dB</span></span>${button("stretch-level")}</span>
      <span class="push"></span><span class="line-hint"></span><button type="button" id="line-more" aria-haspopup="menu">Whole line …</button><button type="button" data-act="hand" title="Take the curves of ducking in hand again" data-keyed="hand">Done</button>`;
    const find = (selector) => element.querySelector(selector);
    this._of = find(".line-of");
    this._stretch = find(".line-stretch");
    this._span = find(".line-span");
    this._hint = find(".line-hint");
    this._level = new FigureField(find("input"), {
      format: (value) => figure(value, 1),
      unit: "dB",
      step: 0.5,
      what: "the stretch",
      reset: () => timeline.stretch.setTo(0),
      send: (to_db, { gesture }) => timeline.stretch.setTo(to_db, gesture),
    });
    const more = find("#line-more");
    more.addEventListener("click", () => {
      const box = more.getBoundingClientRect();
      openMenu({ x: box.left, y: box.bottom + 4 }, menuItems(actions, WHOLE), "Whole line");
    });
    selection.addEventListener("hand", () => this.show());
    timeline.stretch.addEventListener("change", () => this.show());
    selection.addEventListener("change", () => this.show());
    pageDoc.addEventListener("change", () => this.show());
    this.show();
  }

  show() {
    const { element, pageDoc, selection, timeline } = this._parts;
    const held = selection.hand === "line";
    const was = element.hidden;
    element.hidden = !held;
    document.getElementById("hand").setAttribute("aria-pressed", String(held));
    document.body.classList.toggle("line-in-hand", held);
    if (was === held) timeline.refit();
    if (!held) {
      timeline.stretch.clear();
      return;
    }
    const { clip } = (pageDoc.doc && pageDoc.clip(selection.lead)) ?? {};
    const others = selection.clips.size - 1;
    this._of.textContent = clip ? `of ${clip.name}${others > 0 ? ` and ${others} more` : ""}` : "";
    const { chosen } = timeline.stretch;
    this._stretch.hidden = !chosen;
    if (chosen) {
      this._span.textContent = `${clock(chosen.start_n, 1)} – ${clock(chosen.stop_n, 1)}`;
      this._level.show(timeline.stretch.level_db);
    }
    this._hint.textContent = chosen ? "" : "drag over a clip, then drag its line; double click adds a point; a fader held while it plays is written";
  }
}
