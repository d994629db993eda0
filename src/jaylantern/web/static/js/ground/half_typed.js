// What is half typed: a field somebody has typed into and not yet sent. It is left alone by whatever is drawn anew, it has its own
// undo, and while the server is silent it waits with what was typed until it can be sent.

import { silent } from "./api.js";
import { saying } from "./said.js";

/** @type {EventTarget | null} */
let half = null;
document.addEventListener("input", (event) => (half = event.isTrusted ? event.target : half), { capture: true });
for (const over of ["change", "focusout"]) document.addEventListener(over, () => (half = null), { capture: true });
document.addEventListener("keydown", (event) => event.key === "Escape" && (half = null), { capture: true }); // it is given up

/** Has somebody typed into the field what is not sent yet? @param {EventTarget} field */
export const halfTyped = (field) => half === field || waiting.has(field);

/** Is something half typed within a part of the page? @param {HTMLElement} box */
export const holdsHalfTyped = (box) => half instanceof Node && box.contains(half);

/** Do something once what is half typed is sent, left, or given up. @param {() => void} work */
export function whenTyped(work) {
  const stop = new AbortController();
  const over = (event) => {
    if (event.type === "keydown" && event.key !== "Escape") return;
    stop.abort();
    setTimeout(work);
  };
  for (const type of ["change", "focusout", "keydown"]) document.addEventListener(type, over, { signal: stop.signal });
}

/** Fields whose text waits for the server. @type {Set<EventTarget>} */
const waiting = new Set();

/** Send what was typed into a field; while the server is silent it stays there, and is sent when the server is back. @param {HTMLElement} field @param {() => Promise<unknown>} send */
export async function sendTyped(field, send) {
  await saying(send);
  if (silent()) whenBack(field, () => sendTyped(field, send));
}

/** Keep a field's text as it is until the server is back; then go on, if it is still there. @param {HTMLElement} field @param {() => void} goOn */
export function whenBack(field, goOn) {
  waiting.add(field);
  document.addEventListener(
    "jay:answered",
    () => {
      waiting.delete(field);
      if (field.isConnected) goOn();
    },
    { once: true },
  );
}
