// The panels of Lay out, one of which is shown: media, missing files, markers, pauses, takes.

import { usesKeys } from "../ground/focus_keeper.js";

const PANEL = "jay-lantern: panel of Lay out";

export class LayoutPanels {
  /** @param {{tray: any, recorder: any, opened: (name: string) => void}} parts */
  constructor({ tray, recorder, opened }) {
    this._tray = tray;
    this._recorder = recorder;
    this._opened = opened;
    this._wanted = null; // a panel to be shown when the tray has come
  }

  get _tabs() {
    return [...document.querySelectorAll("[data-panel]")];
  }

  /** The tray has come: make its tabs work and open one. */
  furnish() {
    if (!this._tabs.length) return;
    for (const tab of this._tabs) tab.addEventListener("click", () => this.open(tab.dataset.panel));
    document.querySelector(".panel-tabs").addEventListener("keydown", (event) => this._key(event));
    const open = this._wanted ?? (this._recorder.active ? "take" : sessionStorage.getItem(PANEL));
    this._wanted = null;
    this.open(this._tabs.some((tab) => tab.dataset.panel === open) ? open : "media");
  }

  _key(event) {
    const way = { ArrowRight: 1, ArrowLeft: -1 }[event.key];
    const tabs = this._tabs;
    if (!way || !tabs.includes(event.target)) return;
    event.preventDefault();
    const next = tabs[(tabs.indexOf(event.target) + way + tabs.length) % tabs.length];
    this.open(next.dataset.panel);
    next.focus();
  }

  open(name) {
    for (const tab of this._tabs) {
      const shown = tab.dataset.panel === name;
      tab.setAttribute("aria-selected", shown);
      tab.tabIndex = shown ? 0 : -1;
      document.getElementById(`panel-${tab.dataset.panel}`).hidden = !shown;
    }
    sessionStorage.setItem(PANEL, name);
    this._opened(name);
  }

  /** Show a panel, going to Lay out first; the one for takes begins or ends a take when it is shown already. */
  show(name) {
    if (this._tray.step !== "layout") {
      this._wanted = name;
      this._tray.go("layout");
      return;
    }
    if (name === "take" && !document.getElementById("panel-take").hidden) this._tray.takes.record();
    this.open(name);
    if (usesKeys()) this._tray.takeFocus();
  }
}
