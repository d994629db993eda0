// The one place where the page speaks to the person: short notes that go, troubles that stay until put away.

import { SERVER } from "./api.js";

const STAYS_MS = 3500;

/** @param {string} text @param {{trouble?: boolean, about?: string}} options `about`: what it is about, when that can mend itself */
export function say(text, { trouble = false, about = "" } = {}) {
  const region = document.getElementById("said");
  for (const old of region.querySelectorAll(trouble ? ".note, .trouble" : ".note")) old.remove();
  const note = document.createElement("div");
  note.className = trouble ? "trouble" : "note";
  note.dataset.about = about;
  note.append(text);
  if (trouble) {
    const away = document.createElement("button");
    away.type = "button";
    away.textContent = "Put away";
    away.addEventListener("click", () => note.remove());
    note.append(" ", away);
  } else {
    setTimeout(() => note.remove(), STAYS_MS);
  }
  region.append(note);
}

document.addEventListener("jay:answered", () => {
  for (const note of document.querySelectorAll(`#said [data-about=${SERVER}]`)) note.remove();
});

/** Run work and say what went wrong; answers undefined then. */
export async function saying(work) {
  try {
    return await work();
  } catch (error) {
    say(error.message, { trouble: true, about: error.about ?? "" });
    return undefined;
  }
}

/** Tell who listens to the page what a change did; nothing is shown. */
export function tellChange(words) {
  document.getElementById("did").textContent = words;
}
