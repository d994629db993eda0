// Microphones: those of this machine, and the stand-in that ships with the application, which speaks a shipped take.

import { ask } from "../ground/api.js";

export const STAND_IN = "stand-in";
export const STAND_IN_S = 0.12; // how late the stand-in is: what it says and hears arrives so much later
const TAKE_URL = new URL("../../stand-in/take.flac", import.meta.url);
const WORKLET_URL = new URL("take_worklet.js", import.meta.url);
const prepared = new WeakSet();

/** The microphones there are, the stand-in last. @returns {Promise<Array<{id: string, name: string}>>} */
export async function microphones() {
  const found = await navigator.mediaDevices?.enumerateDevices().catch(() => []) ?? [];
  const real = found.filter((each) => each.kind === "audioinput");
  return [
    ...real.map((each, i) => ({ id: each.deviceId || "default", name: each.label || (i ? `Microphone ${i + 1}` : "Microphone of this machine") })),
    { id: STAND_IN, name: "Stand-in microphone (speaks a shipped take)" },
  ];
}

/** An open microphone. Events: "samples" with {frame, samples}. */
export class Microphone extends EventTarget {
  /** @param {AudioContext} context @param {string} id */
  static async open(context, id) {
    if (!prepared.has(context)) {
      await context.audioWorklet.addModule(WORKLET_URL);
      prepared.add(context);
    }
    return id === STAND_IN ? new StandIn(context, await spoken(context)) : new Microphone(context, await stream(id));
  }

  constructor(context, media) {
    super();
    this.context = context;
    this._tap = new AudioWorkletNode(context, "tap", { numberOfOutputs: 0 });
    this._tap.port.onmessage = ({ data }) => this.dispatchEvent(new CustomEvent("samples", { detail: data }));
    this._media = media;
    if (media instanceof MediaStream) {
      this._source = context.createMediaStreamSource(media);
      this._source.connect(this._tap);
    }
  }

  /** Someone begins to speak at a moment of the context's clock: only the stand-in needs to be told. */
  speak(_at) {}

  /** A sound that is played to measure latency reaches the microphone through the air. */
  hear() {}

  close() {
    this._source?.disconnect();
    this._tap.port.onmessage = null;
    this._tap.port.close();
    for (const track of this._media.getTracks?.() ?? []) track.stop();
  }
}

class StandIn extends Microphone {
  constructor(context, buffer) {
    super(context, {});
    this._buffer = buffer;
    this._room = context.createDelay(1);
    this._room.delayTime.value = STAND_IN_S;
    this._room.connect(this._tap);
    this._hum = context.createConstantSource(); // keeps the tap running
    this._hum.offset.value = 0;
    this._hum.connect(this._tap);
    this._hum.start();
  }

  speak(at) {
    this._voice = this.context.createBufferSource();
    this._voice.buffer = this._buffer;
    this._voice.connect(this._room);
    this._voice.start(at);
  }

  hear(node) {
    node.connect(this._room);
  }

  close() {
    this._voice?.disconnect();
    this._hum.stop();
    this._room.disconnect();
    super.close();
  }
}

async function spoken(context) {
  return context.decodeAudioData(await (await ask(TAKE_URL.href)).arrayBuffer());
}

async function stream(id) {
  const plain = { echoCancellation: false, noiseSuppression: false, autoGainControl: false };
  const audio = id === "default" ? plain : { ...plain, deviceId: { exact: id } };
  try {
    return await navigator.mediaDevices.getUserMedia({ audio });
  } catch (error) {
    const reasons = {
      NotAllowedError: "The browser was not allowed to use the microphone. Allow it in the address bar, or choose the stand-in.",
      NotFoundError: "There is no such microphone any more. Choose another one.",
      NotReadableError: "Another program holds the microphone. Close it there, or choose another one.",
    };
    throw new Error(reasons[error.name] ?? `The microphone can't be used (${error.message}).`);
  }
}
