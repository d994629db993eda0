import assert from "node:assert/strict";
import { test } from "node:test";

import { asWritten, commandHeld, strokeOf } from "../../src/jaylantern/web/static/js/plain/strokes.js";

// how a Mac writes modifiers: Apple Style Guide, "key, keys" (Control, Option, Shift, Command, then the key)
for (const [words, mac] of [
  ["Ctrl+Z", "⌘Z"],
  ["Ctrl+Shift+Z", "⇧⌘Z"],
  ["Alt+Shift+PageDown", "⌥⇧⇞".replace("⇞", "⇟")],
  ["Ctrl+Delete", "⌘⌦"],
  ["Ctrl+Backspace", "⌘⌫"],
  ["Shift+B", "⇧B"],
  ["Alt+,", "⌥,"],
  ["Ctrl+.", "⌘."],
  ["Delete", "⌦"],
  ["Space", "Space"],
  ["+", "+"],
  ["Ctrl++", "⌘+"],
  ["←", "←"],
  ["Control+A", "⌃A"],
  ["⇧⌘Z", "⇧⌘Z"],
  ["Ctrl+wheel, pinch", "⌘ wheel, pinch"],
  ["Shift+click", "⇧ click"],
  ["… with Ctrl", "… with ⌘"],
  ["… with Ctrl+Shift", "… with ⇧⌘"],
  ["Snapping; Alt while dragging suspends it", "Snapping; ⌥ while dragging suspends it"],
  ["Drag a clip", "Drag a clip"],
  ["Delete and close up all lanes", "Delete and close up all lanes"],
  ["", ""],
]) {
  test(`“${words}” on a Mac, and elsewhere as it stands`, () => {
    assert.equal(asWritten(words, true), mac);
    assert.equal(asWritten(words, false), words);
  });
}

for (const [what, event, mac, name] of [
  ["Ctrl+Z", { key: "z", ctrlKey: true }, false, "Ctrl+Z"],
  ["Ctrl+Shift+Z", { key: "Z", ctrlKey: true, shiftKey: true }, false, "Ctrl+Shift+Z"],
  ["⌘Z", { key: "z", metaKey: true }, true, "Ctrl+Z"],
  ["⌃Z, which is none of ours", { key: "z", ctrlKey: true }, true, "Control+Z"],
  ["⌥C writes ç", { key: "ç", code: "KeyC", altKey: true }, true, "Alt+C"],
  ["⌥, writes ≤", { key: "≤", code: "Comma", altKey: true }, true, "Alt+,"],
  ["Alt+. writes itself", { key: ".", code: "Period", altKey: true }, false, "Alt+."],
  ["AltGr+e writes €", { key: "€", code: "KeyE", altKey: true }, false, "Alt+E"],
  ["Alt+y of a German keyboard", { key: "y", code: "KeyZ", altKey: true }, false, "Alt+Y"],
  ["an arrow with Alt", { key: "ArrowLeft", code: "ArrowLeft", altKey: true, shiftKey: true }, true, "Alt+Shift+←"],
  ["a question mark", { key: "?", shiftKey: true }, false, "?"],
  ["a large letter", { key: "B", shiftKey: true }, false, "Shift+B"],
  ["Space", { key: " " }, false, "Space"],
  ["minus", { key: "-" }, false, "−"],
]) {
  test(`a stroke: ${what}`, () => assert.equal(strokeOf(event, mac), name));
}

test("a click with Ctrl is for the menu on a Mac, and chooses elsewhere", () => {
  assert.deepEqual([commandHeld({ ctrlKey: true }, true), commandHeld({ metaKey: true }, true), commandHeld({ ctrlKey: true }, false)], [false, true, true]);
});
