// The one place where the page speaks to the person: short notes that go, troubles that stay until put away.

const STAYS_MS = 3500;

/** @param {string} text @param {{trouble?: boolean}} options */
export function say(text, { trouble = false } = {}) {
  const region = document.getElementById("said");
  for (const old of region.querySelectorAll(trouble ? ".note, .trouble" : ".note")) old.remove();
  const note = document.createElement("div");
  note.className = trouble ? "trouble" : "note";
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

/** Run work and say what went wrong; answers undefined then. */
export async function saying(work) {
  try {
    return await work();
  } catch (error) {
    say(error.message, { trouble: true });
    return undefined;
  }
}
