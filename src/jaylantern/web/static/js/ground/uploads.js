// Sends files in parts; a part that does not get through is sent again from where the server stands.

import { getJson, sendBytes, sendJson, Refusal } from "./api.js";

const TRIES = 8;
const FINAL = new Set([400, 404, 413, 422, 507]); // to be told, not tried again
const LOOK_MS = 300;
const wait = (ms) => new Promise((done) => setTimeout(done, ms));

/** One file on its way. Events: "progress"; then "done", "failed" or "stopped". */
export class Upload extends EventTarget {
  constructor(file, project_id, at_n, more = {}) {
    super();
    this._more = more;
    this.file = file;
    this.share = 0;
    this.state = "sending";
    this.message = "";
    this._project_id = project_id;
    this._at_n = at_n;
    this._stop = new AbortController();
    this._token = null;
    this._job = null; // its number, once the file is whole
    this.opens = false; // is it a project, which is not opened before it was read?
    this.undo = null;
  }

  async run() {
    try {
      const { token, part_bytes } = await sendJson(`/projects/${this._project_id}/imports`, {
        name: this.file.name, size_bytes: this.file.size, at_n: this._at_n, ...this._more,
      });
      this._token = token;
      await this._send(part_bytes);
      if (this.opens) await this._opened();
      this._end("done");
    } catch (error) {
      await this.undo?.().catch(() => {}); // what was made for it goes, before anybody is told
      if (error.name === "AbortError" || this._stop.signal.aborted) this._end("stopped", "Stopped. Nothing was kept.");
      else this._end("failed", error.message);
    }
  }

  async _send(part_bytes) {
    let offset = 0;
    let tries = 0;
    while (offset < this.file.size) {
      this._stop.signal.throwIfAborted();
      try {
        const part = this.file.slice(offset, offset + part_bytes);
        const answer = await sendBytes(`/imports/${this._token}?offset=${offset}`, part, this._stop.signal);
        offset = answer.received_bytes;
        this._job = answer.job ?? null;
        tries = 0;
      } catch (error) {
        if (error.name === "AbortError" || FINAL.has(error.status)) throw error;
        tries += 1;
        if (tries >= TRIES) throw error instanceof Refusal ? error : new Refusal(`${this.file.name} can't be read any more.`);
        await wait(400 * tries);
        offset = await this._received(offset);
      }
      this.share = offset / this.file.size;
      this.dispatchEvent(new Event("progress"));
    }
  }

  /** Waits until the project was read from the file. Throws what is wrong with it, where it can't be. */
  async _opened() {
    const job = await this._until(({ read, state }) => read || state === "done" || this._stop.signal.aborted);
    if (job?.state === "failed") throw new Refusal(job.message);
    if (job?.state === "stopped") this._stop.abort();
    this._stop.signal.throwIfAborted();
  }

  /** Waits until nothing is done with the file any more. */
  async ended() {
    if (this._job) await this._until(() => false);
  }

  /** Its job, once it is as wanted or has ended; null where there is none. @param {(job: any) => boolean} wanted */
  async _until(wanted) {
    for (;;) {
      const pulse = await getJson(`/projects/${this._project_id}/pulse`);
      const job = pulse.jobs.find(({ id }) => id === this._job) ?? null;
      if (!job || wanted(job) || ["done", "failed", "stopped"].includes(job.state)) return job;
      await wait(LOOK_MS);
    }
  }

  async _received(otherwise) {
    try {
      return (await getJson(`/imports/${this._token}`)).received_bytes;
    } catch {
      return otherwise;
    }
  }

  stop() {
    this._stop.abort();
    this.giveUp();
  }

  /** Has the server forget what it has of the file. */
  async giveUp() {
    if (this._job) await sendJson(`/jobs/${this._job}/stop`).catch(() => {});
    else if (this._token) await sendJson(`/imports/${this._token}`, {}, "DELETE").catch(() => {});
  }

  _end(state, message = "") {
    this.state = state;
    this.message = message;
    this.dispatchEvent(new Event(state));
  }
}

/** Calls `take(files)` for files dropped anywhere on the page, and marks the page while some hover over it. */
export function takeDrops(take) {
  const carries = (event) => event.dataTransfer?.types.includes("Files");
  let depth = 0;
  const mark = () => document.body.classList.toggle("drop-here", depth > 0);
  document.addEventListener("dragenter", (event) => {
    if (carries(event)) depth += 1;
    mark();
  });
  document.addEventListener("dragleave", (event) => {
    if (carries(event)) depth = Math.max(0, depth - 1);
    mark();
  });
  document.addEventListener("dragover", (event) => carries(event) && event.preventDefault());
  document.addEventListener("drop", (event) => {
    if (!carries(event)) return;
    event.preventDefault();
    depth = 0;
    mark();
    if (event.dataTransfer.files.length) take([...event.dataTransfer.files], event);
  });
}
