// Panels that come from the server: what is done when one has come, and what is said when one has not.

import { holdsHalfTyped, whenTyped } from "../ground/half_typed.js";
import { mended, say } from "../ground/said.js";
import { tell } from "../ground/tell.js";
import { working } from "../ground/working.js";

/** @param {any} pageDoc @param {{tray: () => void, passages: () => void, media: () => void}} arrived what is done with each when it has come */
export function listenForPanels(pageDoc, arrived) {
  const { body } = document;
  let trayOf = 0; // the revision a tray is of that is on its way
  let waits = false; // a panel that came while somebody typed in it is fetched anew when that is over
  body.addEventListener("htmx:beforeSwap", (event) => {
    const { target } = event.detail;
    if (target.id === "tray" || !holdsHalfTyped(target)) return; // another step was gone to
    event.detail.shouldSwap = false;
    if (waits) return;
    waits = true;
    whenTyped(() => {
      waits = false;
      tell("jay:changed");
    });
  });
  body.addEventListener("htmx:afterSwap", (event) => {
    const { id } = event.target;
    if (id === "tray") mended(); // whoever goes to another step is past what was just tried
    arrived[id]?.();
  });
  body.addEventListener("htmx:beforeRequest", (event) => {
    if (event.detail.target.id === "tray") trayOf = pageDoc.doc?.revision ?? 0;
    event.detail.xhr.addEventListener("loadend", working());
  });
  body.addEventListener("htmx:afterSettle", (event) => {
    if (event.target.id === "tray" && pageDoc.doc && pageDoc.doc.revision !== trayOf) tell("jay:changed"); // it was changed meanwhile
  });
  body.addEventListener("htmx:configRequest", (event) => {
    event.detail.headers["X-CSRFToken"] = document.querySelector("meta[name=csrf]").content;
  });
  body.addEventListener("htmx:responseError", (event) => say(`This panel could not be fetched (${event.detail.xhr.status}).`, { trouble: true }));
}
