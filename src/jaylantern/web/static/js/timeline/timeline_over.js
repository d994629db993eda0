// What lies over the lanes and comes and goes: the playhead, the line of what something snapped to, the word that goes with a
// drag, the frame that chooses, and where a take is being recorded.

export class TimelineOver {
  /** @param {HTMLElement} element as wide as the lanes @param {any} view the Viewport */
  constructor(element, view) {
    this._view = view;
    this.element = element;
    element.innerHTML = `<div class="snap-line" hidden></div><div class="drag-word figure" hidden></div><div class="frame" hidden></div>
      <div class="take-band" hidden><span>take</span></div><div class="playhead"><i></i></div>`;
    const find = (selector) => element.querySelector(selector);
    this._playhead = find(".playhead");
    this._snapLine = find(".snap-line");
    this._word = find(".drag-word");
    this._frame = find(".frame");
    this._band = find(".take-band");
  }

  /** Put the playhead at a time. */
  playhead(time_n) {
    const x = this._view.x(time_n);
    const place = x < 0 || x > this._view.width ? null : `translateX(${x}px)`;
    if (place === this._place) return; // asked every frame
    this._place = place;
    this._playhead.hidden = place === null;
    if (place !== null) this._playhead.style.transform = place;
  }

  /** The line of what something snapped to, and the word beside the pointer. @param {{at_n?: number | null, word?: string}} preview */
  drag({ at_n = null, word = "" }, pointer) {
    this._snapLine.hidden = at_n === null;
    if (at_n !== null) this._snapLine.style.transform = `translateX(${this._view.x(at_n)}px)`;
    this._word.hidden = !word;
    if (this._word.textContent !== word) this._word.textContent = word;
    if (!word || !pointer) return;
    const box = this.element.getBoundingClientRect();
    const x = Math.min(Math.max(4, pointer.x - box.left + 14), box.width - this._word.offsetWidth - 6);
    this._word.style.transform = `translate(${x}px, ${Math.min(pointer.y - box.top + 16, box.height - 26)}px)`;
  }

  /** A frame between two places of the page; answers the stretch of time it spans. @returns {number[]} from and to, samples */
  frame({ left, top, right, bottom }) {
    const box = this.element.getBoundingClientRect();
    this._frame.hidden = false;
    const { style } = this._frame;
    style.left = `${left - box.left}px`;
    style.top = `${top - box.top}px`;
    style.width = `${right - left}px`;
    style.height = `${bottom - top}px`;
    return [this._view.time(left - box.left), this._view.time(right - box.left)];
  }

  hideFrame() {
    this._frame.hidden = true;
  }

  /** Where a take is being recorded, as far as it has come; null: none is. @param {{start_n: number, stop_n: number} | null} take */
  take(take) {
    this._band.hidden = !take;
    if (!take) return;
    const left = Math.max(0, this._view.x(take.start_n));
    this._band.style.left = `${left}px`;
    this._band.style.width = `${Math.max(0, this._view.x(take.stop_n) - left)}px`;
  }
}
