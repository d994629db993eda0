// The keys: one table binds them and writes the list that shows them.

/**
 * @param {Array<{keys: string, says: string, run: () => void}>} table `keys` such as "Space" or "Ctrl+Z", several by " or "
 * @param {HTMLDialogElement} dialog
 */
export function bindKeys(table, dialog) {
  const bound = new Map();
  for (const row of table) for (const key of row.keys.split(" or ")) bound.set(key, row.run);
  const body = dialog.querySelector("table");
  for (const row of table) {
    const line = body.insertRow();
    const keys = line.insertCell();
    row.keys.split(" or ").forEach((key, i) => {
      if (i) keys.append(" or ");
      const cap = document.createElement("kbd");
      cap.textContent = key;
      keys.append(cap);
    });
    line.insertCell().textContent = row.says;
  }
  document.addEventListener("keydown", (event) => {
    if (dialog.open || typing(event)) return;
    const run = bound.get(nameOf(event));
    if (!run) return;
    event.preventDefault();
    run();
  });
}

/** A button pressed with the mouse gives the keys back: Space is for playing. */
export function giveKeysBack() {
  document.addEventListener("click", (event) => {
    if (event.detail > 0) event.target.closest?.("button:not(.clip), input[type=range]")?.blur();
  });
}

const NAMES = { " ": "Space", ArrowLeft: "←", ArrowRight: "→", "-": "−" };

/** How the table would call this stroke. */
export function nameOf(event) {
  const key = NAMES[event.key] ?? (event.key.length === 1 ? event.key.toUpperCase() : event.key);
  const held = [];
  if (event.ctrlKey || event.metaKey) held.push("Ctrl");
  if (event.altKey) held.push("Alt");
  if (event.shiftKey && (held.length || key.length > 1 || /[A-Z←→]/.test(key))) held.push("Shift");
  return [...held, key].join("+");
}

function typing(event) {
  const at = event.target;
  if (at.matches?.("input[type=range]")) return /^(Arrow|Home|End|Page)/.test(event.key);
  if (at.matches?.("input, textarea, select")) return true;
  return event.key === " " && at.matches?.("button, summary") && !at.classList.contains("clip");
}
