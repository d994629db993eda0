// Pure: the clips of a document, lane after lane.

/** @template Clip @param {{lanes: {clips: Clip[]}[]}} doc */
export const allClips = (doc) => doc.lanes.flatMap((lane) => lane.clips);

/** @param {{lanes: {clips: {id: number}[]}[]}} doc */
export const clipIds = (doc) => allClips(doc).map((clip) => clip.id);
