// A project's page: makes the pieces, each from those above it, in the order in which what is known goes on; what goes the
// other way is said by events.

import { makeActions } from "../actions/actions.js";
import { Keys, giveKeysBack } from "../actions/keys.js";
import { DropCard } from "../ground/drop_card.js";
import { FocusKeeper, toFilm, toPart } from "../ground/focus_keeper.js";
import { FullWords } from "../ground/full_words.js";
import { listRecorded, saying } from "../ground/said.js";
import { Drafts } from "../heard/drafts.js";
import { PictureView } from "../heard/picture.js";
import { Player } from "../heard/player.js";
import { Recorder } from "../heard/recorder.js";
import { Ride } from "../heard/ride.js";
import { PageDocument } from "../project/page_document.js";
import { Selection } from "../project/selection.js";
import { StepsBack } from "../project/steps_back.js";
import { CardDragging } from "../timeline/card_dragging.js";
import { LineBar } from "../timeline/line_bar.js";
import { drawMedia } from "../timeline/media_drawing.js";
import { Timeline } from "../timeline/timeline.js";
import { TimelineMenus } from "../timeline/timeline_menus.js";
import { BringingIn } from "../trays/bringing_in.js";
import { LayoutPanels } from "../trays/layout_panels.js";
import { PassageRows } from "../trays/passage_rows.js";
import { Perches } from "../trays/perches.js";
import { Scope } from "../trays/scope.js";
import { Tray } from "../trays/tray.js";
import { TrayRoom } from "../trays/tray_room.js";
import { Busy } from "./busy.js";
import { followChanges } from "./changes.js";
import { HeadLine } from "./head_line.js";
import { listenInPanels } from "./panel_deeds.js";
import { listenForPanels } from "./panels_arriving.js";
import { tieTakes } from "./takes.js";
import { Transport } from "./transport.js";

const by = (id) => document.getElementById(id);

// — the project, and what is chosen of it —

const pageDoc = new PageDocument(document.body.dataset.project);
const selection = new Selection();
const stepsBack = new StepsBack({ pageDoc, selection });

// — what is heard and seen —

const player = new Player(() => ({ url: pageDoc.url, length_n: pageDoc.doc?.length_n ?? 0, match_db: pageDoc.doc?.match_db ?? 0, louder_db: pageDoc.held_louder_db }));
const drafts = new Drafts({ pageDoc, player });
const ride = new Ride({ pageDoc, player, selection });
const picture = new PictureView(by("picture"), pageDoc);
const recorder = new Recorder({ player, url: pageDoc.url });

// — the lanes, and what stands between them and the tray —

const timeline = new Timeline(by("timeline"), { pageDoc, selection, ride });
const transport = new Transport({ player, picture, timeline, pageDoc, selection, recorder });
new CardDragging({ pageDoc, timeline });
new FullWords();
new FocusKeeper(() => timeline.focusLead() ?? timeline.lanesElement);

// — what can be done: what of it is shown elsewhere on the page is asked for —

const asks = new EventTarget();
const ask = (what, of) => asks.dispatchEvent(new CustomEvent(what, { detail: of }));
const actions = makeActions({ pageDoc, selection, stepsBack, player, timeline, transport, drafts, ask });
const act = (name) => actions.find((each) => each.id === name).run();
new TimelineMenus({ timeline, pageDoc, selection, actions });
new LineBar({ element: timeline.lineElement, pageDoc, selection, timeline, actions });
const keys = new Keys(actions, by("keys"));

// — the tray and its panels —

const scope = new Scope({ pageDoc, selection });
new Perches(pageDoc);
const busy = new Busy(by("busy"), { url: pageDoc.url, revision: () => pageDoc.doc?.revision });
const tray = new Tray({ pageDoc, selection, timeline, player, scope, busy, recorder, drafts, act, goTo: (time_n) => transport.goToTime(time_n), hear: (variant) => transport.hear(variant) });
const drawTheMedia = () => drawMedia({ pageDoc, timeline });
const panels = new LayoutPanels({ tray, recorder, opened: (name) => name === "media" && drawTheMedia() });
const passageRows = new PassageRows(selection);
const room = new TrayRoom({ tray: by("work"), grip: by("tray-grip"), edge: by("tray-edge") });
const headLine = new HeadLine({ pageDoc, act });
const history = new DropCard({ button: by("show-history"), name: "History", url: () => `${pageDoc.url}/part/history`, shown: listRecorded });
history.box.id = "history";
const ready = saying(async () => {
  await pageDoc.load();
  furnish();
  document.body.classList.add("ready");
  if (document.activeElement === document.body) toFilm(); // the keys work the film from the first one on
});
const bringingIn = new BringingIn({ pageDoc, selection, player, timeline, busy, ready });

/** A tray has come, or the document for the one that is there. */
function furnish() {
  tray.furnish();
  panels.furnish();
  keys.mark();
  bringingIn.furnish();
  passageRows.arrived();
  drawTheMedia();
}

listenForPanels(pageDoc, {
  tray: () => {
    furnish();
    tray.arrived();
  },
  passages: () => passageRows.arrived(),
  media: drawTheMedia,
});
timeline.peaks.addEventListener("arrived", drawTheMedia);
listenInPanels({ pageDoc, selection, player, timeline, transport, tray, busy, actions, act, bringingIn });
tieTakes({ recorder, timeline, tray, panels, busy });
followChanges({ pageDoc, selection, stepsBack, tray, headLine, history, busy });

// — what actions ask for —

/** The parts of the page, in the order in which a key goes through them. */
const PARTS = [
  { element: () => document.querySelector(".top") },
  { element: () => by("tray") },
  { element: () => document.querySelector(".transport") },
  { element: () => timeline.lanesElement, first: () => timeline.focusLead() ?? timeline.lanesElement.querySelector(".clip:not([hidden])") },
];
const SHOWS = {
  step: (name) => tray.go(name),
  panel: (name) => panels.show(name),
  part: (way) => toPart(PARTS, way),
  "fold-tray": () => room.fold(),
  "double-tray": () => room.double(),
  keys: () => keys.show(),
  history: () => history.toggle(),
};
for (const [what, show] of Object.entries(SHOWS)) asks.addEventListener(what, (/** @type {CustomEvent} */ { detail }) => show(detail));

by("show-keys").addEventListener("click", () => keys.show());
keys.addEventListener("change", () => keys.mark());
keys.mark();
giveKeysBack();
window.jayLantern = { timeline, player, pageDoc, selection }; // for benchmarks, and for whoever is curious in the console
