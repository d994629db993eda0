// The keys: the table of actions binds them and writes the list that shows them.

/**
 * @param {import("./actions.js").Action[]} table `keys` such as "Space" or "Ctrl+Z", several by " or "
 * @param {HTMLDialogElement} dialog
 */
export function bindKeys(table, dialog) {
  const bound = new Map();
  for (const row of table) {
    for (const key of row.keys?.split(" or ") ?? []) {
      if (bound.has(key)) throw new Error(`${key} is bound twice`);
      bound.set(key, row);
    }
  }
  writeList(table, dialog.querySelector(".keys-list"));
  document.addEventListener("keydown", (event) => {
    if (event.defaultPrevented || dialog.open || typing(event)) return;
    const row = bound.get(nameOf(event));
    if (!row) return;
    event.preventDefault();
    if (!event.repeat || HELD.test(row.id)) row.run();
  });
}

/** What goes on while its key is held down; all else happens once however long that is. */
const HELD = /^(second|frame|edit|passage-|marker-|point-before|point-after|choose|nudge|slip|louder|softer|zoom-in|zoom-out|undo|redo)/;

function writeList(table, list) {
  for (const group of new Set(table.map((row) => row.group))) {
    const section = document.createElement("section");
    const title = document.createElement("h3");
    title.textContent = group;
    const rows = document.createElement("table");
    for (const row of table.filter((each) => each.group === group && each.keys)) {
      const line = rows.insertRow();
      const keys = line.insertCell();
      row.keys.split(" or ").forEach((key, i) => {
        if (i) keys.append(" or ");
        const cap = document.createElement("kbd");
        cap.textContent = key;
        keys.append(cap);
      });
      line.insertCell().textContent = row.says;
    }
    section.append(title, rows);
    list.append(section);
  }
}

/** A button pressed with the mouse gives the keys back: Space is for playing. */
export function giveKeysBack() {
  document.addEventListener("click", (event) => {
    if (event.detail > 0) event.target.closest?.("button:not(.clip), input[type=range], input[type=checkbox]")?.blur();
  });
}

const NAMES = { " ": "Space", ArrowLeft: "←", ArrowRight: "→", ArrowUp: "↑", ArrowDown: "↓", "-": "−" };

/** How the table would call this stroke. */
function nameOf(event) {
  const key = NAMES[event.key] ?? (event.key.length === 1 ? event.key.toUpperCase() : event.key);
  const held = [];
  if (event.ctrlKey || event.metaKey) held.push("Ctrl");
  if (event.altKey) held.push("Alt");
  if (event.shiftKey && (held.length || key.length > 1 || /[A-Z←→↑↓]/.test(key))) held.push("Shift");
  return [...held, key].join("+");
}

function typing(event) {
  const at = event.target;
  if (at.matches?.("input[type=range]")) return /^(Arrow|Home|End|Page)/.test(event.key);
  if (at.matches?.("input[type=checkbox]")) return event.key === " ";
  if (at.matches?.("input, textarea, select")) return true;
  return event.key === " " && at.matches?.("button, summary") && !at.classList.contains("clip");
}
