// Tells the panels that come from the server that something has changed: "jay:changed" (the project), "jay:jobs" (its work).

/** @param {"jay:changed" | "jay:jobs"} name */
export const tell = (name) => document.body.dispatchEvent(new CustomEvent(name));
