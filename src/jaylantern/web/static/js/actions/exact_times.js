// When a passage or a clip begins and ends, typed in figures.

import { NO_CLIP } from "../project/action_reach.js";
import { askFigures } from "../ground/ask_figures.js";
import { newGesture } from "../ground/gesture.js";
import { say } from "../ground/said.js";
import { RATE, clock } from "../plain/units.js";

const EXACT_N = RATE / 1000; // what is typed shows milliseconds: what differs by less was left alone
const UNREAD = "A time is seconds, as in 12.5 s, or a place, as in 01:02.5 or 00:01:02:12. Nothing was changed.";

const fields = (start_n, stop_n) => [
  { label: "Begins", name: "Begins at", unit: "s", value: clock(start_n) },
  { label: "Ends", name: "Ends at", unit: "s", value: clock(stop_n) },
];
const samples = (seconds) => seconds.map((each) => Math.max(0, Math.round(each * RATE)));

/** The two actions. */
export function exactTimes({ pageDoc, selection }, { doIt, noPassage, passage }) {
  /** Type when the chosen passage begins and ends. */
  const exactPassage = () => {
    const at = passage();
    if (!at) {
      say(noPassage());
      return;
    }
    const set = async (...seconds) => {
      const [start_n, stop_n] = samples(seconds);
      const gesture = newGesture();
      const index = selection.passage;
      const ends = [["stop", stop_n, at.stop_n], ["start", start_n, at.start_n]].filter(([, to_n, was_n]) => Math.abs(to_n - was_n) > EXACT_N);
      for (const [edge, to_n] of ends) await doIt("move_edge", { index, edge, to_n, gesture });
    };
    askFigures(`Passage ${selection.passage + 1}`, fields(at.start_n, at.stop_n), set, UNREAD, pageDoc.frame_s);
  };
  /** Type when the clip chosen last begins and ends. */
  const exactClip = () => {
    const found = pageDoc.clip(selection.lead);
    if (!found) {
      say(NO_CLIP);
      return;
    }
    const { clip } = found;
    const stop_n = clip.start_n + clip.length_n;
    const set = async (...seconds) => {
      const [to_n, end_n] = samples(seconds);
      const gesture = newGesture();
      const moved = Math.abs(to_n - clip.start_n) > EXACT_N ? to_n - clip.start_n : 0;
      if (moved) await doIt("move_clips", { clip_ids: [clip.id], by_n: moved, gesture });
      if (Math.abs(end_n - stop_n) > EXACT_N) await doIt("trim_clips", { clip_ids: [clip.id], edge: "stop", to_n: end_n, gesture });
    };
    askFigures(clip.name, fields(clip.start_n, stop_n), set, UNREAD, pageDoc.frame_s);
  };
  return { exactPassage, exactClip };
}
