// A project's page: makes the pieces and ties them together.

import { makeActions, menuItems } from "./actions.js";
import { sendJson } from "./api.js";
import { Busy } from "./busy.js";
import { fitted } from "./canvas.js";
import { Choice } from "./choice.js";
import { ChosenClips } from "./chosen.js";
import { ClipTable } from "./clip_table.js";
import { DipPicture } from "./dip.js";
import { DropCard } from "./drop_card.js";
import { FilmParcel } from "./film_parcel.js";
import { FocusKeeper, done, usesKeys } from "./focus_keeper.js";
import { newGesture } from "./gesture.js";
import { Keys, giveKeysBack } from "./keys.js";
import { Knobs } from "./knobs.js";
import { Perches } from "./perches.js";
import { PointsCard, PresetsCard } from "./presets_card.js";
import { Scope, ScopeList } from "./scope.js";
import { Transfer } from "./transfer.js";
import { Landing } from "./landing.js";
import { LevelPanel } from "./level_panel.js";
import { BY_TAG } from "./look.js";
import { MarkersPanel } from "./markers_panel.js";
import { openMenu } from "./menu.js";
import { PausesPanel } from "./pauses_panel.js";
import { PictureView } from "./picture.js";
import { Player } from "./player.js";
import { Recorder } from "./recorder.js";
import { say, saying, tellChange } from "./said.js";
import { Score } from "./score.js";
import { TakePanel } from "./take_panel.js";
import { SoundParcel } from "./sound_parcel.js";
import { StepsBack } from "./steps_back.js";
import { Timeline } from "./timeline.js";
import { Transport } from "./transport.js";
import { TrayRoom } from "./tray_room.js";
import { RATE } from "./units.js";
import { MissingFiles } from "./missing_files.js";
import { Upload, takeDrops } from "./uploads.js";
import { WholeWords } from "./whole_words.js";

const by = (id) => document.getElementById(id);
const tell = (name) => document.body.dispatchEvent(new CustomEvent(name));

const score = new Score(document.body.dataset.project);
const choice = new Choice();
const timeline = new Timeline(by("timeline"), { score, choice });
const player = new Player(() => ({ url: score.url, length_n: score.doc?.length_n ?? 0, match_db: score.doc?.match_db ?? 0 }));
const stepsBack = new StepsBack({ score, choice });
const scope = new Scope({ score, choice });
new Perches(score);
const picture = new PictureView(by("picture"), score);
const room = new TrayRoom({ tray: by("work"), grip: by("tray-grip"), edge: by("tray-edge") });
new WholeWords();
const toFilm = () => timeline.focusLead() ?? timeline.lanesElement;
new FocusKeeper(toFilm);
const transport = new Transport({ player, picture, timeline, score, choice });
const busy = new Busy(by("busy"), { url: score.url, revision: () => score.doc?.revision });
const recorder = new Recorder({ player, url: score.url });
const page = { step, showPanel, showKeys: () => keys.show(), showHistory: () => history.toggle(), mayUndo: () => stepsBack.mayUndo(), foldTray: () => room.fold(), doubleTray: () => room.double() };
const actions = makeActions({ score, choice, player, timeline, transport, page });
const act = (name) => actions.find((each) => each.id === name).run();
timeline.useActions(actions);
const keys = new Keys(actions, by("keys"));
const ready = saying(async () => {
  await score.load();
  furnish();
  document.body.classList.add("ready");
});
let pieces = [];
let parcel = null; // what of the sound is handed off, while its tray is shown
let film = null; // how the film is made, while its tray is shown
let takes = null; // the panel for voice takes, while its tray is shown

// — the tray: its pieces come and go with the step —

function furnish() {
  for (const piece of pieces) piece.destroy();
  pieces = [];
  takes = null;
  const said = by("dip-said");
  if (by("dip")) pieces.push(new DipPicture(by("dip"), { score, choice, peaks: timeline.peaks, said, scope }));
  if (by("tray")) furnishDuck();
  if (by("chosen")) pieces.push(new ChosenClips(by("chosen"), { score, choice, act, timeline }));
  if (by("markers")) pieces.push(new MarkersPanel(by("markers"), { score, act, goTo: (time_n) => goTo(time_n), now: () => Math.round(player.now_n) }));
  if (by("pauses")) pieces.push(new PausesPanel(by("pauses"), { score, choice, player, timeline }));
  if (by("take")) {
    takes = new TakePanel(by("take"), { score, player, busy, recorder });
    pieces.push(takes);
  }
  parcel = by("sound-form") ? new SoundParcel(by("sound-form"), { score, choice }) : null;
  if (parcel) pieces.push(parcel);
  film = by("film-parcel") ? new FilmParcel(by("film-parcel"), { score }) : null;
  if (film) pieces.push(film);
  const level = document.querySelector('[data-tray="level"]');
  if (level) pieces.push(new LevelPanel(level, { score, choice, timeline }));
  if (by("clip-table")) pieces.push(new ClipTable(by("clip-table"), { score, choice, timeline }));
  furnishPanels();
  keys.mark();
  showPlace();
  markPassage();
  drawMedia();
  for (const link of document.querySelectorAll(".steps a")) {
    if (link.dataset.step === shownStep()) link.setAttribute("aria-current", "step");
    else link.removeAttribute("aria-current");
  }
}

/** The pieces of the Duck tray that are there. */
function furnishDuck() {
  for (const each of document.querySelectorAll("#tray [data-knobs], #tray .scope-row")) {
    pieces.push(new Knobs(each, { score, scope: "scoped" in each.dataset ? scope : null }));
  }
  if (by("scope")) pieces.push(new ScopeList(by("scope"), { scope }));
  if (by("transfer")) pieces.push(new Transfer(by("transfer"), { score, player }));
  if (by("show-presets")) pieces.push(new PresetsCard(by("show-presets"), { score }));
  if (by("show-points")) {
    let knobs = null;
    const furnish = (box) => {
      knobs?.destroy();
      knobs = new Knobs(box, { score });
    };
    pieces.push(new PointsCard(by("show-points"), { score, furnish }), { destroy: () => knobs?.destroy() });
  }
  showMode();
}

/** Which of the ways to duck is at work, and what is shown of it. */
function showMode() {
  const tray = document.querySelector('[data-tray="duck"]');
  if (!tray || !score.doc) return;
  const { settings } = score.doc;
  tray.dataset.mode = settings.mode;
  for (const button of tray.querySelectorAll("[data-set-mode]")) button.setAttribute("aria-pressed", button.dataset.setMode === settings.mode);
  tray.querySelector(".band-edges").hidden = settings.band !== "speech";
}

function shownStep() {
  return document.querySelector("[data-tray]").dataset.tray;
}

let taking = false; // is the focus to go to the tray when it has come?

function step(name) {
  taking = usesKeys();
  document.querySelector(`.steps a[data-step="${name}"]`).click();
}

/** The focus goes into the tray that was opened by a key: to what its panel is for, else to the tray. */
function takeFocus() {
  taking = false;
  const panel = document.querySelector(".panel:not([hidden])");
  (panel?.querySelector("#record, #pause-longest") ?? by("tray")).focus({ preventScroll: true });
}

function goTo(time_n) {
  player.seek(time_n);
  timeline.reveal(time_n);
}

// — the panels of Lay out —

const PANEL = "jay-lantern: panel of Lay out";
let wanted = null; // a panel to be shown when the tray has come

function furnishPanels() {
  if (!document.querySelector("[data-panel]")) return;
  for (const tab of document.querySelectorAll("[data-panel]")) tab.addEventListener("click", () => openPanel(tab.dataset.panel));
  document.querySelector(".panel-tabs").addEventListener("keydown", (event) => {
    const way = { ArrowRight: 1, ArrowLeft: -1 }[event.key];
    const tabs = [...document.querySelectorAll("[data-panel]")];
    if (!way || !tabs.includes(event.target)) return;
    event.preventDefault();
    const next = tabs[(tabs.indexOf(event.target) + way + tabs.length) % tabs.length];
    openPanel(next.dataset.panel);
    next.focus();
  });
  const open = wanted ?? (recorder.active ? "take" : sessionStorage.getItem(PANEL));
  wanted = null;
  openPanel(document.querySelector(`[data-panel="${open}"]`) ? open : "media");
}

function openPanel(name) {
  for (const tab of document.querySelectorAll("[data-panel]")) {
    const shown = tab.dataset.panel === name;
    tab.setAttribute("aria-selected", shown);
    tab.tabIndex = shown ? 0 : -1;
    by(`panel-${tab.dataset.panel}`).hidden = !shown;
  }
  sessionStorage.setItem(PANEL, name);
  if (name === "media") drawMedia();
}

/** Show a panel of Lay out, going there first; the one for takes begins or ends a take when it is shown already. */
function showPanel(name) {
  if (shownStep() !== "layout") {
    wanted = name;
    step("layout");
    return;
  }
  if (name === "take" && !by("panel-take").hidden) takes.record();
  openPanel(name);
  if (usesKeys()) takeFocus();
}

by("on-air").addEventListener("click", () => {
  if (takes) takes.record();
  else showPanel("take");
});

function showPlace() {
  const place = by("place");
  if (!place) return;
  place.value = localStorage.getItem(PLACE) ?? place.value;
  place.addEventListener("change", () => localStorage.setItem(PLACE, place.value));
  const show = () => (by("landing").textContent = `${landing.words} …`);
  by("landing").addEventListener("click", () => landing.menu(by("landing"), show));
  show();
}

let shownPassage = null; // the passage that was brought into view last

function markPassage() {
  for (const row of document.querySelectorAll("tr[data-passage]")) {
    const chosen = Number(row.dataset.passage) === choice.passage;
    const was = row.classList.contains("chosen");
    if (was !== chosen) row.classList.toggle("chosen", chosen);
    if (chosen && choice.passage !== shownPassage) row.scrollIntoView({ block: "nearest" });
  }
  if (document.querySelector("tr[data-passage]")) shownPassage = choice.passage;
}

function drawMedia() {
  for (const canvas of document.querySelectorAll("canvas.media-wave")) {
    const medium = score.doc?.media[canvas.dataset.media];
    const peaks = medium && timeline.peaks.get(Number(canvas.dataset.media), medium);
    const [width, height] = [canvas.clientWidth || 84, canvas.clientHeight || 40];
    const context = fitted(canvas, width, height);
    if (!peaks) continue;
    const clip = score.doc.lanes.flatMap((lane) => lane.clips).find((each) => each.media_id === Number(canvas.dataset.media));
    const columns = peaks.columns(0, medium.length_n / width, width);
    context.fillStyle = BY_TAG[clip?.tag ?? "untagged"];
    for (let x = 0; x < width; x += 1) {
      const up = (columns[2 * x + 1] * height) / 2;
      context.fillRect(x, height / 2 - up, 1, Math.max(1, up - (columns[2 * x] * height) / 2));
    }
  }
}

document.body.addEventListener("htmx:afterSwap", (event) => {
  if (event.target.id === "tray") {
    furnish();
    if (taking) takeFocus();
  }
  if (event.target.id === "passages") markPassage();
  if (event.target.id === "media") drawMedia();
});
document.body.addEventListener("htmx:configRequest", (event) => {
  event.detail.headers["X-CSRFToken"] = document.querySelector("meta[name=csrf]").content;
});
document.body.addEventListener("htmx:responseError", (event) => say(`This panel could not be fetched (${event.detail.xhr.status}).`, { trouble: true }));

// — clicks inside panels that come from the server —

const DEEDS = {
  go: (at_n) => {
    player.seek(Number(at_n) - RATE);
    timeline.reveal(Number(at_n));
  },
  choose: (index) => transport.goTo(Number(index)),
  passage: (index) => transport.goTo(Number(index)),
  act: (name) => act(name),
  setMode: (mode) => saying(() => score.do("set_settings", { settings: { mode } })),
  command: (kind, { values }) => saying(() => score.do(kind, JSON.parse(values))),
  place: (media_id) => saying(() => score.post("place", { media_id: Number(media_id), at_n: Math.round(player.now_n), ...placed() })),
  history: (edit_id) => saying(() => score.goTo(Number(edit_id))),
  export: (what, _, button) => handOff(button, what),
  stop: (job) => saying(() => sendJson(`/jobs/${job}/stop`)).then(() => busy.poll()),
  dismiss: (job) => saying(() => sendJson(`/jobs/${job}/dismiss`)).then(() => busy.poll()),
};
/** How a medium is placed once more: as files land. */
const placed = () => ({ how: landing.how, ...(landing.how === "own" ? {} : { lane_id: score.clip(choice.lead)?.lane.id ?? null }) });
const ONCE = new Set(["command", "place", "export"]); // a double click does these once
const CLICKABLE = Object.keys(DEEDS).map((name) => (name === "passage" ? "tr[data-passage]" : `[data-${name.replace(/[A-Z]/g, (big) => `-${big.toLowerCase()}`)}]`)).join();

document.addEventListener("click", (event) => {
  const at = event.target.closest(CLICKABLE);
  if (!at) return;
  const name = Object.keys(DEEDS).find((each) => at.dataset[each] !== undefined);
  if (event.detail > 1 && ONCE.has(name)) return;
  DEEDS[name](at.dataset[name], at.dataset, at);
});

const making = new Set(); // buttons whose request is on its way

async function handOff(button, asked) {
  const what = asked === "data" ? by("data-form").value : asked;
  if (making.has(button)) return;
  making.add(button);
  await saying(() => sendJson(`${score.url}/exports`, { what, ...parcel?.values, ...film?.values }));
  await busy.poll();
  making.delete(button);
}

// — bringing files in —

const PLACE = "jay-lantern: new files land";

const landing = new Landing();

/** Bring files in, in their order: where they are dropped, else where it was chosen. */
async function bringIn(files, event = null) {
  await ready;
  const place = localStorage.getItem(PLACE) ?? "playhead";
  const hit = event && landing.how !== "own" ? timeline.hit(event) : null; // dropped on a lane: there
  const at_n = Math.round(hit?.time_n ?? { end: score.doc.length_n, playhead: player.now_n, start: 0 }[place]);
  const lane_id = hit?.lane.id ?? (landing.how === "own" ? null : score.clip(choice.lead)?.lane.id);
  const batch = newGesture();
  const uploads = files.map((file) => new Upload(file, score.doc.id, at_n, landing.values(files.length, batch, lane_id)));
  for (const upload of uploads) busy.add(upload);
  for (const upload of uploads) await upload.run();
}

takeDrops(bringIn);
new MissingFiles({
  score,
  send: (file, relink) => {
    const upload = new Upload(file, score.doc.id, 0, { relink });
    busy.add(upload);
    upload.run();
  },
});
function takePicked() {
  if (by("pick").files.length) bringIn([...by("pick").files]);
  by("pick").value = "";
}

by("pick").addEventListener("change", takePicked);
takePicked(); // what was chosen before this script was there
document.addEventListener("keydown", (event) => {
  if (event.target.matches?.("label[tabindex]") && (event.key === "Enter" || event.key === " ")) {
    event.preventDefault();
    event.target.click();
  }
});

// — a take being recorded —

recorder.addEventListener("part", ({ detail }) => timeline.showTake({ start_n: recorder.take.at_n, stop_n: recorder.take.at_n + detail }));
recorder.addEventListener("ended", () => timeline.showTake(null));

// — history —

const history = new DropCard({ button: by("show-history"), name: "History", url: () => `${score.url}/part/history` });
history.box.id = "history";

// — what follows from a change —

function keptAt(moment) {
  const time = moment.toLocaleTimeString("en-GB", { hour: "2-digit", minute: "2-digit" });
  by("kept").textContent = `kept ${time}`;
}

/** The timeline is drawn first; the panels are fetched right after. */
const soon = (work) => requestAnimationFrame(() => setTimeout(work));

score.addEventListener("change", ({ detail }) => {
  const { doc } = score;
  stepsBack.take(doc, detail);
  stepsBack.keep(doc);
  choice.keepWithin(doc);
  showMode();
  for (const way of ["undo", "redo"]) {
    by(way).setAttribute("aria-disabled", doc[way] === null); // it keeps the focus when there is nothing left
    by(way).title = doc[way] === null ? `Nothing to ${way}` : `${way === "undo" ? "Undo" : "Do again"}: ${doc[way]}`;
  }
  if (document.activeElement !== by("film-name")) by("film-name").value = doc.name;
  by("title").textContent = doc.name;
  document.title = `${doc.name} · Jay Lantern`;
  if (detail.said) say(detail.said);
  else if (detail.mine && detail.fresh && doc.undo) tellChange(doc.undo);
  if (detail.fresh && Number(document.body.dataset.revision) !== doc.revision) {
    document.body.dataset.revision = doc.revision;
    keptAt(new Date());
    soon(() => {
      tell("jay:changed");
      if (history.open) history.fetch();
    });
  }
});
choice.addEventListener("change", markPassage);
busy.addEventListener("revision", ({ detail }) => score.load({ foreign: !detail.worked }).catch(() => {}));
busy.addEventListener("takes", ({ detail: count }) => {
  by("takes-chip").hidden = !count || recorder.active;
  by("takes-chip").querySelector("span").textContent = count === 1 ? "a take in hand" : `${count} takes in hand`;
  if (takes && !recorder.active && takes.count !== count) takes.list();
});
by("takes-chip").addEventListener("click", () => {
  if (shownStep() === "layout") openPanel("take");
  else showPanel("take");
});
window.addEventListener("beforeunload", (event) => {
  if (recorder.active) event.preventDefault(); // leaving would end the take: the browser asks
});
busy.addEventListener("jobs", () => {
  tell("jay:jobs");
  const wanting = Object.values(score.doc?.media ?? {}).some((medium) => medium.width && !medium.picture_mime);
  if (wanting) score.load().catch(() => {}); // its picture may have been made
});
by("undo").addEventListener("click", () => act("undo"));
by("redo").addEventListener("click", () => act("redo"));
by("film-name").addEventListener("change", (event) => saying(() => score.do("rename_project", { name: event.target.value })));
by("film-name").addEventListener("keydown", (event) => event.key === "Enter" && done(event.target));
by("show-keys").addEventListener("click", () => keys.show());
document.addEventListener("contextmenu", (event) => {
  const row = event.target.closest("tr[data-clip]");
  if (!row) return;
  event.preventDefault();
  if (!choice.clips.has(Number(row.dataset.clip))) choice.choose([Number(row.dataset.clip)]);
  openMenu({ x: event.clientX, y: event.clientY }, menuItems(actions, ["tag", "bystander", "mute", null, "zoom-chosen", "delete"]), "Chosen clips");
});

keys.addEventListener("change", () => keys.mark());
keys.mark();
giveKeysBack();
keptAt(new Date(by("kept").dataset.at));
timeline.peaks.addEventListener("arrived", drawMedia);
window.jayLantern = { timeline, player, score, choice }; // for benchmarks, and for whoever is curious in the console
