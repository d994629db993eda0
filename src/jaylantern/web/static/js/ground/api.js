// Talking to the server: JSON out and in, errors as plain words.

import { working } from "./working.js";

const token = () => document.querySelector("meta[name=csrf]").content;

const CHANGES = new Set(["POST", "DELETE"]); // what a person asks for and waits for; parts of files have a bar of their own

let unanswered = false;

/** Did the server not answer when it was asked last? */
export const silent = () => unanswered;

/** What a note is about that says that the server is silent. */
export const SERVER = "server";

/** An answer that says no; `message` is what the person is told. */
export class Refusal extends Error {
  /** What it is about, when that can mend itself. */
  about = "";
  status = 0;
  /** @type {any} the answer itself */
  details = undefined;
}

/** @param {string} url @param {RequestInit} options @returns {Promise<Response>} */
export async function ask(url, options = {}) {
  let answer;
  const done = CHANGES.has(options.method ?? "GET") ? working() : () => {};
  try {
    answer = await fetch(url, { ...options, headers: { Accept: "application/json", "X-Refusals": "as-answers", ...options.headers } });
  } catch (error) {
    if (error.name === "AbortError") throw error;
    unanswered = true;
    const silence = new Refusal("The server does not answer. It may have been stopped: start Jay Lantern again. This page goes on by itself then, and what you type meanwhile is kept.");
    silence.about = SERVER;
    throw silence;
  } finally {
    done();
  }
  unanswered = false;
  document.dispatchEvent(new CustomEvent("jay:answered"));
  const refused = answer.headers.get("X-Refused"); // an expected no, which is no error of the page
  if (answer.ok && !refused) return answer;
  const said = await answer.json().catch(() => ({}));
  const refusal = new Refusal(said.error ?? `The server answered ${answer.status}.`);
  refusal.status = Number(refused ?? answer.status);
  refusal.details = said;
  throw refusal;
}

export async function getJson(url) {
  return (await ask(url)).json();
}

const post = (url, value, method = "POST") =>
  ask(url, { method, headers: { "Content-Type": "application/json", "X-CSRFToken": token() }, body: JSON.stringify(value) });

/** POST (or another method) a JSON value; answers the JSON that comes back, or null. */
export async function sendJson(url, value = {}, method = "POST") {
  const answer = await post(url, value, method);
  return answer.status === 204 ? null : answer.json();
}

/** POST a JSON value; answers the text, a piece of the page, that comes back. */
export async function sendForText(url, value) {
  return (await post(url, value)).text();
}

/** PUT raw bytes. @param {Blob} bytes @param {AbortSignal} signal */
export async function sendBytes(url, bytes, signal) {
  const answer = await ask(url, {
    method: "PUT",
    headers: { "Content-Type": "application/octet-stream", "X-CSRFToken": token() },
    body: bytes,
    signal,
  });
  return answer.json();
}
