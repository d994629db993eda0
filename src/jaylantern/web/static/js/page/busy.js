// What is being worked on: uploads of this page and jobs of the server, each with its progress and a way to stop it.

import { SERVER, getJson, sendJson } from "../ground/api.js";
import { record, say, saying } from "../ground/said.js";
import { TimeLeft } from "../plain/time_left.js";

const BRISK_MS = 350;
const CALM_MS = 2000;
const GONE_MS = 800; // while the server is silent
const STAYS_MS = 9000; // a word about work that is done
const TOLD = "jay-lantern: told of jobs"; // troubles that were seen do not come back with the page

/** Events: "revision" when the project has changed on the server (`detail.worked`: by a job that ended), "jobs" when a job began or ended, "takes" with how many takes are in hand. */
export class Busy extends EventTarget {
  constructor(element, { url, revision }) {
    super();
    this._element = element;
    this._url = url;
    this._revision = revision;
    this._rows = new Map();
    /** @type {Map<string, TimeLeft>} */
    this._left = new Map();
    this._states = new Map();
    this._timer = null;
    this._before = new Set(JSON.parse(sessionStorage.getItem(TOLD) ?? "[]")); // told before this page came
    this.poll();
  }

  /** Follow an upload of this page; whoever asks runs it. */
  add(upload) {
    const key = `upload-${this._rows.size}-${Date.now()}`;
    const show = () =>
      this._show(key, {
        title: upload.file.name,
        share: upload.share,
        state: upload.state === "sending" ? "running" : upload.state,
        doing: "sending",
        message: upload.message,
        stop: () => upload.stop(),
        away: () => this._remove(key),
      });
    show();
    upload.addEventListener("progress", show);
    upload.addEventListener("failed", show);
    upload.addEventListener("stopped", () => this._remove(key));
    upload.addEventListener("done", () => {
      this._remove(key);
      this.poll();
    });
    return show;
  }

  /** Ask the server now. */
  async poll() {
    clearTimeout(this._timer);
    let next_ms = CALM_MS;
    try {
      const pulse = await getJson(`${this._url}/pulse`);
      if (this._take(pulse)) next_ms = BRISK_MS;
    } catch (error) {
      if (error.about === SERVER) {
        say(error.message, { trouble: true, about: SERVER });
        next_ms = GONE_MS;
      }
    }
    clearTimeout(this._timer);
    this._timer = setTimeout(() => this.poll(), next_ms);
  }

  _take({ revision, jobs, takes }) {
    this.dispatchEvent(new CustomEvent("takes", { detail: takes }));
    const states = new Map(jobs.map((job) => [job.id, job.state]));
    const changed = jobs.some((job) => this._states.get(job.id) !== job.state) || states.size !== this._states.size;
    this._states = states;
    for (const job of jobs) this._showJob(job);
    for (const key of this._rows.keys()) {
      if (key.startsWith("job-") && !states.has(Number(key.slice(4)))) this._remove(key);
    }
    const shown = this._revision(); // undefined while the page is being opened
    if (shown !== undefined && revision !== shown) this.dispatchEvent(new CustomEvent("revision", { detail: { revision, worked: changed } }));
    if (changed) this.dispatchEvent(new Event("jobs"));
    return jobs.some((job) => job.state === "queued" || job.state === "running");
  }

  _showJob(job) {
    const key = `job-${job.id}`;
    const listed = this._showMade(job);
    const active = job.state === "queued" || job.state === "running";
    const quiet = job.state === "stopped" || (job.state === "done" && !job.message) || (!active && this._before.has(job.id));
    if (!active && !quiet) this._tell(job);
    if (listed || quiet || (!active && job.kind === "export")) {
      this._remove(key);
      return;
    }
    this._show(key, {
      ...job,
      stop: () => saying(() => sendJson(`/jobs/${job.id}/stop`)),
      away: async () => {
        await saying(() => sendJson(`/jobs/${job.id}/dismiss`));
        this.poll();
      },
    });
  }

  /** A word that goes by itself unless something is wrong. */
  _tell(job) {
    const told = JSON.parse(sessionStorage.getItem(TOLD) ?? "[]");
    if (told.includes(job.id)) return;
    sessionStorage.setItem(TOLD, JSON.stringify([...told.slice(-200), job.id]));
    if (job.message) record(`${job.title}: ${job.message}`, job.state === "failed");
    if (job.state !== "done") return;
    setTimeout(async () => {
      await sendJson(`/jobs/${job.id}/dismiss`).catch(() => {});
      this._remove(`job-${job.id}`);
    }, STAYS_MS);
  }

  /** The progress in the list under Hand off, without redrawing the list; answers whether it stands there. */
  _showMade(job) {
    const item = document.querySelector(`.made-item[data-job="${job.id}"]`);
    const bar = item?.querySelector("progress");
    if (bar) {
      bar.value = job.share;
      item.querySelector(".doing").textContent = this._doing(`job-${job.id}`, job);
    }
    return Boolean(item);
  }

  _show(key, { title, share, state, doing, message, stop, away }) {
    let row = this._rows.get(key);
    if (!row) {
      row = document.createElement("div");
      row.className = "busy-row";
      row.innerHTML = '<span class="busy-title"></span><progress max="1"></progress><span class="busy-doing"></span><button type="button" class="btn-line small"></button>';
      this._rows.set(key, row);
      this._element.append(row);
    }
    const active = state === "queued" || state === "running";
    row.classList.toggle("trouble", state === "failed");
    row.querySelector(".busy-title").textContent = title;
    const bar = row.querySelector("progress");
    bar.hidden = !active;
    bar.value = share;
    row.querySelector(".busy-doing").textContent = active ? this._doing(key, { doing, share, state }) : message;
    const button = row.querySelector("button");
    button.textContent = active ? "Stop" : "Put away";
    button.setAttribute("aria-label", `${button.textContent}: ${title}`);
    button.onclick = active ? stop : away;
  }

  /** What is being done, how much of it is there and how long the rest takes. */
  _doing(key, { doing, share, state }) {
    if (!this._left.has(key)) this._left.set(key, new TimeLeft());
    return state === "queued" ? doing : `${doing} · ${this._left.get(key).words(share, performance.now())}`;
  }

  _remove(key) {
    this._left.delete(key);
    this._rows.get(key)?.remove();
    this._rows.delete(key);
  }
}
