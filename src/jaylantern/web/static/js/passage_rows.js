// The rows of the list of passages: the chosen one is marked, and brought into view when the choice changes.

export class PassageRows {
  constructor(selection) {
    this._selection = selection;
    this._shown = null; // the passage that was brought into view last
    selection.addEventListener("change", () => this.mark());
  }

  mark() {
    const rows = [...document.querySelectorAll("tr[data-passage]")];
    for (const row of rows) {
      const chosen = Number(row.dataset.passage) === this._selection.passage;
      if (row.classList.contains("chosen") !== chosen) row.classList.toggle("chosen", chosen);
      if (chosen && this._selection.passage !== this._shown) row.scrollIntoView({ block: "nearest" });
    }
    if (rows.length) this._shown = this._selection.passage;
  }
}
