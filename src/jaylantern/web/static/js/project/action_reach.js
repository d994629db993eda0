// What the actions of a person reach for: what is chosen, where the playhead is, and the one way to ask for a change.

import { allClips } from "../plain/clips.js";
import { framedCut } from "../plain/frames.js";
import { KeyRun } from "../ground/gesture.js";
import { saying } from "../ground/said.js";

export const NO_CLIP = "No clip is chosen. Click one on the timeline first.";
const ASIDE = "What is in hand counts as no speech, so there is no passage. Lift takes that back; or choose a passage.";
export const NO_PASSAGE = "There is no passage yet: tag a lane with speech as dialogue.";

/** @param {{pageDoc: any, selection: any, player: any, transport: any}} parts */
export function makeReach({ pageDoc, selection, player, transport }) {
  const presses = new KeyRun(); // presses of one key, one after another, are one step of the history
  const reach = {
    chosen: () => [...selection.clips],
    chosenClips: () => allClips(pageDoc.doc).filter((clip) => selection.clips.has(clip.id)),
    now: () => Math.round(player.now_n),
    frame: () => pageDoc.frame_n,
    laneOfLead: () => pageDoc.doc.lanes.find((lane) => lane.clips.some((clip) => clip.id === selection.lead)),
    passage: () => pageDoc.doc.passages[selection.passage] ?? null,
    /** Why there is no passage to do something to. */
    noPassage: () => (selection.aside ? ASIDE : NO_PASSAGE),
    /** Carry out a command; what it cannot do is said. */
    doIt: (kind, values) => saying(() => pageDoc.do(kind, values)),
    /** The same for the chosen clips, as what an action runs. */
    onClips: (kind, values = {}) => () => reach.doIt(kind, { clip_ids: reach.chosen(), ...values }),
    /** For the chosen clips; presses that follow one another are one step of the history. */
    step: (kind, values) => reach.doIt(kind, { clip_ids: reach.chosen(), ...values, gesture: presses.of(`${kind} ${reach.chosen().join()}`) }),
    presses,
    /** Where clips are cut: at frames of their picture. */
    cutAt: (clips, time_n) => framedCut(pageDoc.pictures(clips), time_n),
    goTo: (time_n) => transport.goToTime(time_n),
  };
  return reach;
}
