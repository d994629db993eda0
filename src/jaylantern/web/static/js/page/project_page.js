// A project's page: makes the pieces and ties them together.

import { makeActions } from "../actions/actions.js";
import { sendJson } from "../ground/api.js";
import { BringingIn } from "../trays/bringing_in.js";
import { Busy } from "./busy.js";
import { CardDragging } from "../timeline/card_dragging.js";
import { listenForDeeds } from "../ground/deeds.js";
import { Drafts } from "../heard/drafts.js";
import { DropCard } from "../ground/drop_card.js";
import { FocusKeeper, toFilm, toPart } from "../ground/focus_keeper.js";
import { FullWords } from "../ground/full_words.js";
import { HeadLine } from "./head_line.js";
import { Keys, giveKeysBack } from "../actions/keys.js";
import { LineBar } from "../timeline/line_bar.js";
import { LayoutPanels } from "../trays/layout_panels.js";
import { drawMedia } from "../timeline/media_drawing.js";
import { menuItems, openMenu } from "../ground/menu.js";
import { PageDocument } from "../project/page_document.js";
import { PassageRows } from "../trays/passage_rows.js";
import { Perches } from "../trays/perches.js";
import { PictureView } from "../heard/picture.js";
import { Player } from "../heard/player.js";
import { Recorder } from "../heard/recorder.js";
import { Ride } from "../heard/ride.js";
import { listRecorded, mended, say, saying, tellChange } from "../ground/said.js";
import { Scope } from "../trays/scope.js";
import { Selection } from "../project/selection.js";
import { StepsBack } from "../project/steps_back.js";
import { Timeline } from "../timeline/timeline.js";
import { Transport } from "./transport.js";
import { Tray } from "../trays/tray.js";
import { TrayRoom } from "../trays/tray_room.js";
import { RATE } from "../plain/units.js";
import { working } from "../ground/working.js";

const by = (id) => document.getElementById(id);

// — the pieces —

const pageDoc = new PageDocument(document.body.dataset.project);
const selection = new Selection();
const timeline = new Timeline(by("timeline"), { pageDoc, selection });
const player = new Player(() => ({ url: pageDoc.url, length_n: pageDoc.doc?.length_n ?? 0, match_db: pageDoc.doc?.match_db ?? 0, louder_db: drafts.louder_db }));
const drafts = new Drafts({ pageDoc, player, timeline });
const stepsBack = new StepsBack({ pageDoc, selection });
const scope = new Scope({ pageDoc, selection });
new Perches(pageDoc);
const picture = new PictureView(by("picture"), pageDoc);
const room = new TrayRoom({ tray: by("work"), grip: by("tray-grip"), edge: by("tray-edge") });
new FullWords();
new FocusKeeper(() => timeline.focusLead() ?? timeline.lanesElement);
const busy = new Busy(by("busy"), { url: pageDoc.url, revision: () => pageDoc.doc?.revision });
const recorder = new Recorder({ player, url: pageDoc.url });
const transport = new Transport({ player, picture, timeline, pageDoc, selection, recorder });
const act = (name) => actions.find((each) => each.id === name).run();
const tray = new Tray({ pageDoc, selection, timeline, player, scope, busy, recorder, drafts, act, goTo: (time_n) => transport.goToTime(time_n), hear: (variant) => transport.hear(variant) });
const panels = new LayoutPanels({ tray, recorder, opened: (name) => name === "media" && drawMedia({ pageDoc, timeline }) });
/** The parts of the page, in the order in which a key goes through them. */
const PARTS = [
  { element: () => document.querySelector(".top") },
  { element: () => by("tray") },
  { element: () => document.querySelector(".transport") },
  { element: () => timeline.lanesElement, first: () => timeline.focusLead() ?? timeline.lanesElement.querySelector(".clip:not([hidden])") },
];
const page = {
  step: (name) => tray.go(name),
  showPanel: (name) => panels.show(name),
  showKeys: () => keys.show(),
  showHistory: () => history.toggle(),
  mayUndo: () => stepsBack.mayUndo(),
  toPart: (way) => toPart(PARTS, way),
  foldTray: () => room.fold(),
  doubleTray: () => room.double(),
};
const actions = makeActions({ pageDoc, selection, player, timeline, transport, drafts, page });
timeline.useActions(actions);
timeline.ride = new Ride({ pageDoc, player, timeline });
new LineBar({ element: timeline.lineElement, pageDoc, selection, timeline, actions });
const keys = new Keys(actions, by("keys"));
const passageRows = new PassageRows(selection);
const headLine = new HeadLine({ pageDoc, act });
const history = new DropCard({ button: by("show-history"), name: "History", url: () => `${pageDoc.url}/part/history`, shown: listRecorded });
history.box.id = "history";
const ready = saying(async () => {
  await pageDoc.load();
  furnish();
  document.body.classList.add("ready");
  if (document.activeElement === document.body) toFilm(); // the keys work the film from the first one on
});
new CardDragging({ pageDoc, timeline });
const bringingIn = new BringingIn({ pageDoc, selection, player, timeline, busy, ready });

// — the tray and its panels —

/** A tray has come, or the document for the one that is there. */
function furnish() {
  tray.furnish();
  panels.furnish();
  keys.mark();
  bringingIn.furnish();
  passageRows.arrived();
  drawMedia({ pageDoc, timeline });
}

document.body.addEventListener("htmx:afterSwap", (event) => {
  if (event.target.id === "tray") {
    mended(); // whoever goes to another step is past what was just tried
    furnish();
    tray.arrived();
  }
  if (event.target.id === "passages") passageRows.arrived();
  if (event.target.id === "media") drawMedia({ pageDoc, timeline });
});
let trayOf = 0; // the revision a tray is of that is on its way
document.body.addEventListener("htmx:beforeRequest", (event) => {
  if (event.detail.target.id === "tray") trayOf = pageDoc.doc?.revision ?? 0;
});
document.body.addEventListener("htmx:afterSettle", (event) => {
  if (event.target.id === "tray" && pageDoc.doc && pageDoc.doc.revision !== trayOf) tell("jay:changed"); // it was changed meanwhile
});
document.body.addEventListener("htmx:beforeRequest", (event) => event.detail.xhr.addEventListener("loadend", working()));
document.body.addEventListener("htmx:configRequest", (event) => {
  event.detail.headers["X-CSRFToken"] = document.querySelector("meta[name=csrf]").content;
});
document.body.addEventListener("htmx:responseError", (event) => say(`This panel could not be fetched (${event.detail.xhr.status}).`, { trouble: true }));
timeline.peaks.addEventListener("arrived", () => drawMedia({ pageDoc, timeline }));

// — clicks and menus inside panels that come from the server —

const SOUND = new Set(["mix", "music", "stems"]); // what is made in every form that is chosen
const making = new Set(); // buttons whose request is on its way

async function handOff(button, asked) {
  const what = asked === "data" ? by("data-form").value : asked;
  if (making.has(button)) return;
  making.add(button);
  const ways = SOUND.has(what) ? [{}, ...tray.furtherForms] : [{}];
  for (const way of ways) await saying(() => sendJson(`${pageDoc.url}/exports`, { what, ...tray.formValues, ...way }));
  await busy.poll();
  making.delete(button);
}

listenForDeeds(
  {
    go: (at_n) => {
      player.seek(Number(at_n) - RATE);
      timeline.reveal(Number(at_n));
    },
    pick: (id) => by(id).click(),
    choose: (index) => transport.goTo(Number(index)),
    passage: (index) => transport.goTo(Number(index)),
    aside: (stop_n, { start }) => transport.goToAside(Number(start), Number(stop_n)),
    act: (name) => act(name),
    setMode: (mode) => saying(() => pageDoc.do("set_settings", { settings: { mode } })),
    command: (name, { values }) => saying(() => pageDoc.do(name, JSON.parse(values))),
    place: (media_id) => saying(() => pageDoc.do("place", { media_id: Number(media_id), at_n: Math.round(player.now_n), ...bringingIn.placing })),
    history: (edit_id) => saying(() => pageDoc.goTo(Number(edit_id))),
    export: (what, _, button) => handOff(button, what),
    stop: (job) => saying(() => sendJson(`/jobs/${job}/stop`)).then(() => busy.poll()),
    dismiss: (job) => saying(() => sendJson(`/jobs/${job}/dismiss`)).then(() => busy.poll()),
    removeMade: (job) => saying(() => sendJson(`/exports/${job}/remove`)).then(() => tell("jay:jobs")),
    bringBack: (job) => saying(() => sendJson(`/exports/${job}/bring-back`)).then(() => tell("jay:jobs")),
  },
  { once: ["command", "place", "export"] },
);
document.addEventListener("contextmenu", (event) => {
  const row = event.target.closest("tr[data-clip]");
  if (!row) return;
  event.preventDefault();
  if (!selection.clips.has(Number(row.dataset.clip))) selection.choose([Number(row.dataset.clip)]);
  openMenu({ x: event.clientX, y: event.clientY }, menuItems(actions, ["tag", "bystander", "mute", null, "zoom-chosen", "delete"]), "Chosen clips");
});

// — takes —

recorder.addEventListener("part", ({ detail }) => timeline.showTake({ start_n: recorder.take.at_n, stop_n: recorder.take.at_n + detail }));
recorder.addEventListener("ended", () => timeline.showTake(null));
by("on-air").addEventListener("click", () => recorder.askStop());
recorder.addEventListener("enough", () => {
  if (tray.takes) tray.takes.record();
  else panels.show("take");
});
busy.addEventListener("takes", ({ detail: count }) => {
  by("takes-chip").hidden = !count || recorder.active;
  by("takes-chip").querySelector("span").textContent = count === 1 ? "a take in hand" : `${count} takes in hand`;
  if (tray.takes && !recorder.active && tray.takes.count !== count) tray.takes.list();
});
by("takes-chip").addEventListener("click", () => {
  if (tray.step === "layout") panels.open("take");
  else panels.show("take");
});
window.addEventListener("beforeunload", (event) => {
  if (recorder.active) event.preventDefault(); // leaving would end the take: the browser asks
});

// — what follows from a change —

const tell = (name) => document.body.dispatchEvent(new CustomEvent(name));
/** The timeline is drawn first; the panels are fetched right after. */
const soon = (work) => requestAnimationFrame(() => setTimeout(work));

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
  if (detail.fresh && Number(document.body.dataset.revision) !== doc.revision) {
    document.body.dataset.revision = doc.revision;
    headLine.kept(new Date());
    soon(() => {
      tell("jay:changed");
      if (history.open) history.fetch();
    });
  }
});
busy.addEventListener("revision", ({ detail }) => pageDoc.catchUp(detail.revision, { foreign: !detail.worked }));
busy.addEventListener("jobs", () => {
  tell("jay:jobs");
  const wanting = Object.values(pageDoc.doc?.media ?? {}).some((medium) => medium.width && !medium.picture_mime);
  if (wanting) pageDoc.load().catch(() => {}); // its picture may have been made
});
by("show-keys").addEventListener("click", () => keys.show());
keys.addEventListener("change", () => keys.mark());
keys.mark();
giveKeysBack();
window.jayLantern = { timeline, player, pageDoc, selection }; // for benchmarks, and for whoever is curious in the console
