// Runs on the audio thread: hands on what the microphone gives, as one channel, with the number of its first frame.

const BATCH_N = 2048;

class Tap extends AudioWorkletProcessor {
  constructor() {
    super();
    this._batch = new Float32Array(BATCH_N);
    this._filled = 0;
    this._frame = 0;
  }

  process([channels]) {
    const count = channels[0]?.length ?? 128;
    if (!this._filled) this._frame = currentFrame;
    for (let i = 0; i < count; i += 1) {
      let sum = 0;
      for (const channel of channels) sum += channel[i];
      this._batch[this._filled + i] = channels.length ? sum / channels.length : 0;
    }
    this._filled += count;
    if (this._filled >= BATCH_N) {
      this.port.postMessage({ frame: this._frame, samples: this._batch }, [this._batch.buffer]);
      this._batch = new Float32Array(BATCH_N);
      this._filled = 0;
    }
    return true;
  }
}

registerProcessor("tap", Tap);
