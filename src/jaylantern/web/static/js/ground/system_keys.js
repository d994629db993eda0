// The keyboard of the system the page is seen on.

import * as strokes from "../plain/strokes.js";

/** Is it one of Apple's? */
export const onMac = () => /mac|iphone|ipad/i.test(/** @type {any} */ (navigator).userAgentData?.platform || navigator.platform || "");

/** Is the key held that commands are given with: ⌘ on a Mac, else Ctrl? */
export const commandHeld = (event) => strokes.commandHeld(event, onMac());

/** Does a press ask for the menu, as Ctrl with a click does on a Mac? */
export const asksForMenu = (event) => onMac() && event.ctrlKey;

/** How the table of actions would call this stroke. */
export const strokeOf = (event) => strokes.strokeOf(event, onMac());

/** Keys, or a way of the mouse, as this system writes them. */
export const asWritten = (words) => strokes.asWritten(words, onMac());
