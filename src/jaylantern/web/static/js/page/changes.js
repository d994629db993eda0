// What follows from a change of the project, made here, in another window, or by work in the background.

import { mended, say, tellChange } from "../ground/said.js";
import { tell } from "../ground/tell.js";

/** The timeline is drawn first; the panels are fetched right after. */
const soon = (work) => requestAnimationFrame(() => setTimeout(work));

/** @param {{pageDoc: any, selection: any, stepsBack: any, tray: any, headLine: any, history: any, busy: any}} pieces */
export function followChanges({ pageDoc, selection, stepsBack, tray, headLine, history, busy }) {
  const { dataset } = document.body;
  pageDoc.addEventListener("change", ({ detail }) => {
    const { doc } = pageDoc;
    stepsBack.take(doc, detail);
    stepsBack.keep(doc);
    selection.keepWithin(doc);
    tray.showMode();
    headLine.show();
    if (detail.said) say(detail.said);
    if (detail.mine && detail.fresh) {
      mended();
      tellChange(detail.said ? "" : (doc.undo ?? ""));
    }
    if (!detail.fresh || Number(dataset.revision) === doc.revision) return;
    dataset.revision = doc.revision;
    headLine.kept(new Date());
    soon(() => {
      tell("jay:changed");
      if (history.open) history.fetch();
    });
  });
  busy.addEventListener("revision", ({ detail }) => pageDoc.catchUp(detail.revision, { foreign: !detail.worked }));
  busy.addEventListener("jobs", () => {
    tell("jay:jobs");
    const wanting = Object.values(pageDoc.doc?.media ?? {}).some((medium) => medium.width && !medium.picture_mime);
    if (wanting) pageDoc.load().catch(() => {}); // its picture may have been made
  });
}
