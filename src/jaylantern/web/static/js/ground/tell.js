// Tells the panels that come from the server that something has changed: the project, its work, what is chosen, a voice that was
// treated, which music is tailored.

/** @param {"jay:changed" | "jay:jobs" | "jay:chosen" | "jay:voice" | "jay:tailored"} name */
export const tell = (name) => document.body.dispatchEvent(new CustomEvent(name));
