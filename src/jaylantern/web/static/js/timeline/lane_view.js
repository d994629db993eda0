// How a person likes to see the lanes of a project: heights and what is folded. Kept in this browser, no part of the film.

const LEAST_H = 60; // what the head needs
const MOST_H = 320;

export class LaneView {
  constructor(project_id) {
    this._key = `jay-lantern: lanes of project ${project_id}`;
    try {
      this._held = JSON.parse(localStorage.getItem(this._key)) ?? {};
    } catch {
      this._held = {};
    }
  }

  folded(id) {
    return this._held[id]?.folded ?? false;
  }

  /** The height the person gave a lane, or null. */
  height(id) {
    return this._held[id]?.height ?? null;
  }

  fold(id, folded) {
    this._set(id, { folded });
  }

  /** @param {number | null} height null: as tall as there is room for */
  resize(id, height) {
    this._set(id, { height: height === null ? null : Math.round(Math.min(Math.max(height, LEAST_H), MOST_H)), folded: false });
  }

  _set(id, values) {
    this._held[id] = { ...this._held[id], ...values };
    localStorage.setItem(this._key, JSON.stringify(this._held));
  }
}
