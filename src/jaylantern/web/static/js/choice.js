// What the person has chosen: a passage, a clip. Events: "change".

export class Choice extends EventTarget {
  constructor() {
    super();
    this.passage = null;
    this.clip_id = null;
  }

  choosePassage(index) {
    this._set({ passage: index });
  }

  chooseClip(clip_id) {
    this._set({ clip_id });
  }

  /** Let go of what is not there any more; without a choice the first passage stands for all. */
  keepWithin(doc) {
    const count = doc.passages.length;
    const passage = count ? Math.min(this.passage ?? 0, count - 1) : null;
    const there = doc.lanes.some((lane) => lane.clips.some((clip) => clip.id === this.clip_id));
    this._set({ passage, clip_id: there ? this.clip_id : null });
  }

  _set(values) {
    const before = `${this.passage} ${this.clip_id}`;
    Object.assign(this, values);
    if (before !== `${this.passage} ${this.clip_id}`) this.dispatchEvent(new Event("change"));
  }
}
