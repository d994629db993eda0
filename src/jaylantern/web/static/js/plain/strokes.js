// Pure: what a stroke is called in the table of actions, and how each system writes that. The table says Ctrl for the key
// commands are given with, which is ⌘ on a Mac.

const NAMES = { " ": "Space", ArrowLeft: "←", ArrowRight: "→", ArrowUp: "↑", ArrowDown: "↓", "-": "−" };
const BY_PLACE = { Comma: ",", Period: "." };
const OF_A_MAC = { Delete: "⌦", Backspace: "⌫", Enter: "↩", Escape: "esc", Tab: "⇥", PageUp: "⇞", PageDown: "⇟", Home: "↖", End: "↘" };
const SIGNS = ["Control", "Alt", "Shift", "Ctrl"]; // the order in which a Mac writes them
const OF_SIGNS = { Control: "⌃", Alt: "⌥", Shift: "⇧", Ctrl: "⌘" };

/**
 * @typedef {{key: string, code?: string, altKey?: boolean, ctrlKey?: boolean, metaKey?: boolean, shiftKey?: boolean}} Stroke
 */

/**
 * Is the key held that commands are given with? On a Mac Ctrl with a click asks for the menu, and nothing else.
 * @param {{ctrlKey?: boolean, metaKey?: boolean}} event
 * @param {boolean} mac
 */
export const commandHeld = (event, mac) => Boolean(mac ? event.metaKey : event.ctrlKey || event.metaKey);

/**
 * How the table would call this stroke.
 * @param {Stroke} event
 * @param {boolean} mac
 */
export function strokeOf(event, mac) {
  const key = plainKey(event);
  const named = NAMES[key] ?? (key.length === 1 ? key.toUpperCase() : key);
  const held = [];
  if (mac && event.ctrlKey && !event.metaKey) held.push("Control");
  if (commandHeld(event, mac)) held.push("Ctrl");
  if (event.altKey) held.push("Alt");
  if (event.shiftKey && (held.length || named.length > 1 || /[A-Z←→↑↓]/.test(named))) held.push("Shift");
  return [...held, named].join("+");
}

/**
 * The key without what Alt makes of it: on a Mac, and on some keyboards elsewhere, it writes other letters.
 * @param {Stroke} event
 */
function plainKey({ key, code = "", altKey = false }) {
  if (!altKey || key.length > 1 || /^[\x20-\x7e]$/.test(key)) return key;
  return /^(?:Key|Digit)(.)$/.exec(code)?.[1] ?? BY_PLACE[code] ?? key;
}

/**
 * Keys, or a way of the mouse, as the table says them ("Ctrl+Shift+Z", "Ctrl+wheel, pinch", "… with Ctrl"), written as the system
 * does: on a Mac "⇧⌘Z", "⌘ wheel, pinch", "… with ⌘". In a sentence "Delete" is a word, and no key.
 * @param {string} words
 * @param {boolean} mac
 */
export function asWritten(words, mac) {
  if (!mac) return words;
  const named = /\s/.test(words) ? {} : OF_A_MAC;
  return words.replace(/((?:(?:Control|Ctrl|Alt|Shift)\+)*)(Control|Ctrl|Alt|Shift|\S+)/g, (whole, before, last) => {
    const held = before.split("+").filter(Boolean);
    if (last in OF_SIGNS) return signs([...held, last]);
    if (!held.length) return named[last] ?? whole;
    const key = OF_A_MAC[last] ?? last;
    return `${signs(held)}${/^[a-z]{2}/.test(last) ? " " : ""}${key}`;
  });
}

const signs = (held) => SIGNS.filter((each) => held.includes(each)).map((each) => OF_SIGNS[each]).join("");
