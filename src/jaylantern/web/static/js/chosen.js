// Lay out: what the chosen clip is, and its lane.

import { saying } from "./said.js";
import { RATE, clock } from "./units.js";

export class ChosenClip {
  constructor(element, { score, choice }) {
    this._element = element;
    this._score = score;
    this._choice = choice;
    this._stop = new AbortController();
    const options = { signal: this._stop.signal };
    score.addEventListener("change", () => this.show(), options);
    choice.addEventListener("change", () => this.show(), options);
    this.show();
  }

  destroy() {
    this._stop.abort();
  }

  show() {
    if (!this._score.doc) return;
    const found = this._choice.clip_id === null ? null : this._score.clip(this._choice.clip_id);
    this._element.innerHTML = '<div class="card-head"><h2>Chosen clip</h2></div>';
    if (!found) {
      const hint = document.createElement("p");
      hint.className = "empty";
      hint.textContent = "Click a clip on the timeline to see what it is. Drag it to move it along its lane.";
      this._element.append(hint);
      return;
    }
    this._describe(found);
  }

  _describe({ lane, clip }) {
    const medium = this._score.doc.media[clip.media_id];
    const sound = medium.sound_word === "silent" ? "its sound is silent" : medium.sound_n ? medium.sound_word : "no sound";
    const facts = [
      ["File", clip.name],
      ["Lane", lane.name],
      ["From", clock(clip.start_n)],
      ["To", clock(clip.start_n + clip.length_n)],
      ["Length", `${(clip.length_n / RATE).toFixed(3)} s`],
      lane.kind === "picture" ? ["Picture", medium.picture_word] : ["Sound", sound],
    ];
    if (lane.kind === "sound") facts.push(["Tag", `${clip.tag}${clip.own_tag ? " (its own)" : " (its lane's)"}`]);
    const list = document.createElement("dl");
    list.className = "facts";
    for (const [name, value] of facts) {
      const term = document.createElement("dt");
      const said = document.createElement("dd");
      term.textContent = name;
      said.textContent = value;
      said.classList.toggle("figure", ["From", "To", "Length"].includes(name));
      list.append(term, said);
    }
    const remove = document.createElement("button");
    remove.type = "button";
    remove.className = "btn-line";
    remove.textContent = `Remove lane ${lane.name}`;
    remove.addEventListener("click", () => saying(() => this._score.do("remove_lane", { lane_id: lane.id })));
    this._element.append(list, remove);
  }
}
