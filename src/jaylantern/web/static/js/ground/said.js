// The one place where the page speaks to the person: short notes that go by themselves, troubles that stay while what they are
// about lasts. Both stand in the line at the foot of the page, over nothing, and can be read again under History.

import { SERVER } from "./api.js";

const STAYS_MS = 3500;
const READING_MS = 45; // more for each letter
const KEPT = "jay-lantern: said";
const MOST = 60;

/** What a trouble is about where nothing else is said: what was just tried. It is over as soon as something else succeeds. */
export const DEED = "deed";

/** @param {string} text @param {{trouble?: boolean, about?: string}} options `about`: what it is about, when that can mend itself */
export function say(text, { trouble = false, about = DEED } = {}) {
  const region = document.getElementById("said");
  const alike = [...region.children].filter((old) => old.className === "note" || (trouble && old.dataset.about === about));
  const again = alike.find((old) => trouble && old.dataset.text === text);
  for (const old of alike) if (old !== again) old.remove();
  if (again) return; // it stands there: nothing is announced twice
  const note = document.createElement("div");
  note.className = trouble ? "trouble" : "note";
  note.dataset.about = about;
  note.dataset.text = text;
  note.dataset.since = String(performance.now());
  note.append(text);
  if (!trouble) setTimeout(() => note.remove(), STAYS_MS + READING_MS * text.length);
  else if (about !== SERVER) note.append(" ", away(note));
  region.append(note);
  record(text, trouble);
}

function away(note) {
  const button = document.createElement("button");
  button.type = "button";
  button.textContent = "Put away";
  button.addEventListener("click", () => note.remove());
  return button;
}

/** What a trouble was about is over: it goes, though not before it could be read. */
export function mended(about = DEED) {
  for (const note of document.querySelectorAll(`#said [data-about="${about}"].trouble`)) {
    const shown_ms = performance.now() - Number(note.dataset.since);
    setTimeout(() => note.remove(), about === SERVER ? 0 : Math.max(0, STAYS_MS - shown_ms));
  }
}

document.addEventListener("jay:answered", () => mended(SERVER));

/** Run work and say what went wrong; answers undefined then. */
export async function saying(work) {
  try {
    const answer = await work();
    mended();
    return answer;
  } catch (error) {
    say(error.message, { trouble: true, about: error.about || DEED });
    return undefined;
  }
}

/** What a change did, as the line says it while there is nothing else to say. */
export function tellChange(words) {
  document.getElementById("did").textContent = words;
}

// — to be read again —

/** Keep words that were shown, to be read again. @param {string} text @param {boolean} trouble */
export function record(text, trouble) {
  sessionStorage.setItem(KEPT, JSON.stringify([...recorded(), { at: Date.now(), text, trouble }].slice(-MOST)));
}

/** What was said in this window, oldest first. @returns {{at: number, text: string, trouble: boolean}[]} */
export function recorded() {
  try {
    return JSON.parse(sessionStorage.getItem(KEPT)) ?? [];
  } catch {
    return [];
  }
}

/** The same as a part of the card of the history. @param {HTMLElement} card */
export function listRecorded(card) {
  const all = recorded();
  if (!all.length) return;
  const title = document.createElement("h2");
  title.textContent = "What was said";
  const list = document.createElement("ul");
  list.className = "said-list";
  for (const { at, text, trouble } of all.toReversed()) {
    const line = document.createElement("li");
    if (trouble) line.className = "look-word";
    const time = document.createElement("time");
    time.className = "quiet figure";
    time.textContent = new Date(at).toLocaleTimeString("en-GB", { hour: "2-digit", minute: "2-digit" });
    line.append(text, " ", time);
    list.append(line);
  }
  card.append(title, list);
}
