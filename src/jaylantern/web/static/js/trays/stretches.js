// Hears stretches of the timeline, one after another, and stops at the end of the last.

const LOOK_MS = 30;

export class Stretches {
  /** @param {{player: any, timeline: any}} parts */
  constructor({ player, timeline }) {
    this._player = player;
    this._timeline = timeline;
    this._hearing = null;
  }

  /** Is something heard? */
  get busy() {
    return this._hearing !== null;
  }

  /** @param {number[][]} spans [start_n, stop_n] each @param {() => void} ended called when the last is over, or playing was stopped */
  hear(spans, ended = () => {}) {
    this.hush();
    const queue = spans.map(([a, b]) => [Math.max(0, a), b]);
    let until = 0;
    const next = () => {
      const span = queue.shift();
      until = span[1];
      this._player.seek(span[0]);
      this._timeline.reveal(span[0]);
      if (!this._player.playing) this._player.play();
    };
    const over = (pause) => {
      this.hush(pause);
      ended();
    };
    next();
    let begun = false;
    this._hearing = setInterval(() => {
      const { playing, now_n } = this._player;
      begun ||= playing;
      if (begun && !playing) return over(false);
      if (playing && now_n >= until) {
        if (queue.length) next();
        else over(true);
      }
    }, LOOK_MS);
  }

  hush(pause = true) {
    if (!this.busy) return;
    clearInterval(this._hearing);
    this._hearing = null;
    if (pause) this._player.pause();
  }
}
