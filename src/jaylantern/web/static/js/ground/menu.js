// A small menu at a place of the page: for the mouse and for the keys. Only one is open at a time.

import { toFilm } from "./focus_keeper.js";
import { asWritten } from "./system_keys.js";

let open = null;

/**
 * @param {{x: number, y: number}} at where its corner comes, CSS pixels
 * @param {Array<{label: string, keys?: string, run?: () => void, off?: boolean, on?: boolean} | null>} items null: a line
 * @param {string} name what the menu is about, for who listens to the page
 */
export function openMenu(at, items, name) {
  closeMenu();
  const back = document.activeElement;
  const menu = document.createElement("div");
  menu.className = "menu";
  menu.setAttribute("role", "menu");
  menu.setAttribute("aria-label", name);
  for (const item of items) menu.append(item ? button(item) : document.createElement("hr"));
  menu.popover = "manual"; // above all else; a light one would be closed by the release of the button that opened it
  document.getElementById("over").append(menu);
  menu.showPopover();
  const { offsetWidth: width, offsetHeight: height } = menu;
  menu.style.left = `${Math.max(4, Math.min(at.x, innerWidth - width - 4))}px`;
  menu.style.top = `${Math.max(4, Math.min(at.y, innerHeight - height - 4))}px`;
  const stop = new AbortController();
  open = { menu, back, stop };
  document.addEventListener("pointerdown", (event) => event.composedPath().includes(menu) || closeMenu(), { signal: stop.signal, capture: true });
  window.addEventListener("blur", () => closeMenu(), { signal: stop.signal });
  menu.addEventListener("keydown", (event) => key(event, menu));
  menu.querySelector("button:not(:disabled)")?.focus();
}

/** The actions of these names as items of a menu. */
export function menuItems(table, names) {
  return names.map((name) => {
    if (name === null) return null;
    const { says, short, bound, run } = table.find((each) => each.id === name);
    return { label: short ?? says, keys: bound?.[0], run };
  });
}

function closeMenu() {
  if (!open) return;
  const { menu, back, stop } = open;
  open = null;
  stop.abort();
  const inside = menu.contains(document.activeElement);
  menu.remove();
  if (inside && back?.isConnected && back !== document.body) back.focus({ preventScroll: true });
  else if (inside) toFilm();
}

function button(item) {
  const made = document.createElement("button");
  made.type = "button";
  made.setAttribute("role", item.on === undefined ? "menuitem" : "menuitemcheckbox");
  if (item.on !== undefined) made.setAttribute("aria-checked", item.on);
  made.disabled = item.off ?? false;
  if (item.tag) made.classList.add("menu-tag", `tag-${item.tag}`);
  const label = document.createElement("span");
  label.textContent = item.label;
  made.append(label);
  if (item.keys) {
    const keys = document.createElement("kbd");
    keys.textContent = asWritten(item.keys);
    made.append(keys);
  }
  made.dataset.letter = item.letter ?? "";
  made.addEventListener("click", () => {
    closeMenu();
    item.run();
  });
  return made;
}

function key(event, menu) {
  const all = [...menu.querySelectorAll("button:not(:disabled)")];
  const at = all.indexOf(document.activeElement);
  const to = { ArrowDown: at + 1, ArrowUp: at - 1, Home: 0, End: all.length - 1 }[event.key];
  event.stopPropagation();
  if (event.key === "Escape" || event.key === "Tab") {
    event.preventDefault();
    closeMenu();
  } else if (to !== undefined) {
    event.preventDefault();
    all[(to + all.length) % all.length]?.focus();
  } else {
    const wanted = all.find((each) => each.dataset.letter && each.dataset.letter.toLowerCase() === event.key.toLowerCase());
    if (!wanted) return;
    event.preventDefault();
    wanted.click();
  }
}
