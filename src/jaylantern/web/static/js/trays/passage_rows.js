// The rows of the list of passages, and of what was said to be none: the chosen one is marked, and brought into view when the choice changes. They stand in
// order of time, or the least clear first.

const ROWS = "tr[data-passage], tr[data-aside]";

/** Scroll the list, and nothing else, so that a row is seen. @param {HTMLElement | null} row */
function intoView(row) {
  const list = row?.closest(".passages-scroll");
  if (!row || !list) return;
  const [at, room] = [row.getBoundingClientRect(), list.getBoundingClientRect()];
  const head_px = list.querySelector("thead")?.getBoundingClientRect().height ?? 0; // it stays where it is
  if (at.top < room.top + head_px) list.scrollTop -= room.top + head_px - at.top;
  else if (at.bottom > room.bottom) list.scrollTop += at.bottom - room.bottom;
}

export class PassageRows {
  constructor(selection) {
    this._selection = selection;
    this._shown = null; // the passage that was brought into view last
    this._least = false; // is the least clear first?
    selection.addEventListener("change", () => this.mark());
    document.addEventListener("click", (event) => {
      if (!event.target.closest?.("#least-clear")) return;
      this._least = !this._least;
      this.sort();
      intoView(document.querySelector(ROWS));
    });
  }

  /** The rows are there anew: in their order, the chosen one marked. */
  arrived() {
    if (this._least) this.sort();
    this.mark();
  }

  sort() {
    const button = document.getElementById("least-clear");
    if (!button) return;
    button.setAttribute("aria-pressed", String(this._least));
    const by = this._least ? "clear" : "start";
    const rows = [...document.querySelectorAll(ROWS)].map((row) => /** @type {HTMLElement} */ (row));
    rows[0]?.parentElement.append(...rows.toSorted((a, b) => Number(a.dataset[by]) - Number(b.dataset[by])));
  }

  mark() {
    const { passage, aside } = this._selection;
    const held = aside?.start_n ?? passage; // numbers of passages and samples are never the same row
    const rows = [...document.querySelectorAll(ROWS)].map((row) => /** @type {HTMLElement} */ (row));
    for (const row of rows) {
      const chosen = aside ? row.dataset.aside !== undefined && Number(row.dataset.start) === aside.start_n : Number(row.dataset.passage ?? -1) === passage;
      if (row.classList.contains("chosen") !== chosen) row.classList.toggle("chosen", chosen);
      if (chosen && held !== this._shown) intoView(row);
    }
    if (rows.length) this._shown = held;
  }
}
