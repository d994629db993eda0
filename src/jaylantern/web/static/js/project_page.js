// A project's page: makes the pieces and ties them together.

import { sendJson } from "./api.js";
import { Busy } from "./busy.js";
import { fitted } from "./canvas.js";
import { Choice } from "./choice.js";
import { ChosenClip } from "./chosen.js";
import { DipPicture } from "./dip.js";
import { bindKeys, giveKeysBack } from "./keys.js";
import { Knobs } from "./knobs.js";
import { BY_TAG } from "./look.js";
import { PictureView } from "./picture.js";
import { Player } from "./player.js";
import { say, saying } from "./said.js";
import { Score } from "./score.js";
import { Timeline } from "./timeline.js";
import { Transport } from "./transport.js";
import { RATE } from "./units.js";
import { Upload, takeDrops } from "./uploads.js";

const by = (id) => document.getElementById(id);
const tell = (name) => document.body.dispatchEvent(new CustomEvent(name));

const score = new Score(document.body.dataset.project);
const choice = new Choice();
const timeline = new Timeline(by("timeline"), { score, choice });
const player = new Player(() => ({ url: score.url, length_n: score.doc?.length_n ?? 0 }));
const picture = new PictureView(by("picture"), score);
const transport = new Transport({ player, picture, timeline, score, choice });
const busy = new Busy(by("busy"), { url: score.url, revision: () => score.doc?.revision });
const ready = saying(async () => {
  await score.load();
  furnish();
  document.body.classList.add("ready");
});
let pieces = [];

// — the tray: its pieces come and go with the step —

function furnish() {
  for (const piece of pieces) piece.destroy();
  pieces = [];
  const said = by("dip-said");
  if (by("dip")) pieces.push(new DipPicture(by("dip"), { score, choice, peaks: timeline.peaks, said }));
  if (by("knobs")) pieces.push(new Knobs(by("knobs"), { score }));
  if (by("chosen")) pieces.push(new ChosenClip(by("chosen"), { score, choice }));
  showPlace();
  markPassage();
  drawMedia();
  const step = document.querySelector("[data-tray]").dataset.tray;
  for (const link of document.querySelectorAll(".steps a")) {
    if (link.dataset.step === step) link.setAttribute("aria-current", "step");
    else link.removeAttribute("aria-current");
  }
}

function showPlace() {
  const place = by("place");
  if (!place) return;
  place.value = localStorage.getItem(PLACE) ?? place.value;
  place.addEventListener("change", () => localStorage.setItem(PLACE, place.value));
}

function markPassage() {
  for (const row of document.querySelectorAll("tr[data-passage]")) {
    const chosen = Number(row.dataset.passage) === choice.passage;
    row.classList.toggle("chosen", chosen);
    if (chosen) row.scrollIntoView({ block: "nearest" });
  }
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
  if (event.target.id === "tray") furnish();
  if (event.target.id === "passages") markPassage();
  if (event.target.id === "media") drawMedia();
});
document.body.addEventListener("htmx:responseError", (event) => say(`This panel could not be fetched (${event.detail.xhr.status}).`, { trouble: true }));

// — clicks inside panels that come from the server —

document.addEventListener("click", (event) => {
  const at = event.target.closest("[data-go], [data-choose], tr[data-passage], [data-tag-lane], [data-tag-clip], [data-export], [data-stop], [data-dismiss]");
  if (!at) return;
  const { dataset } = at;
  if (dataset.go !== undefined) {
    player.seek(Number(dataset.go) - RATE);
    timeline.reveal(Number(dataset.go));
  } else if (dataset.choose !== undefined || dataset.passage !== undefined) {
    transport.goTo(Number(dataset.choose ?? dataset.passage));
  } else if (dataset.tagLane !== undefined) {
    saying(() => score.do("tag_lane", { lane_id: Number(dataset.tagLane), tag: dataset.tag }));
  } else if (dataset.tagClip !== undefined) {
    saying(() => score.do("tag_clip", { clip_id: Number(dataset.tagClip), tag: dataset.tag || null }));
  } else if (dataset.export !== undefined) {
    handOff(at, dataset.export);
  } else {
    const way = dataset.stop === undefined ? "dismiss" : "stop";
    saying(() => sendJson(`/jobs/${dataset[way]}/${way}`)).then(() => busy.poll());
  }
});

async function handOff(button, what) {
  button.disabled = true;
  await saying(() => sendJson(`${score.url}/exports`, { what }));
  await busy.poll();
  button.disabled = false;
}

// — bringing files in —

const PLACE = "jay-lantern: new files land";

async function bringIn(files) {
  await ready;
  const place = localStorage.getItem(PLACE) ?? "playhead";
  const at_n = { end: score.doc.length_n, playhead: player.now_n, start: 0 }[place];
  for (const file of files) busy.add(new Upload(file, score.doc.id, Math.round(at_n)));
}

takeDrops(bringIn);
function takePicked() {
  if (by("pick").files.length) bringIn([...by("pick").files]);
  by("pick").value = "";
}

by("pick").addEventListener("change", takePicked);
takePicked(); // what was chosen before this script was there
document.addEventListener("keydown", (event) => {
  if (event.target.id === "bring-in" && (event.key === "Enter" || event.key === " ")) by("pick").click();
});

// — what follows from a change —

function keptAt(moment) {
  const time = moment.toLocaleTimeString("en-GB", { hour: "2-digit", minute: "2-digit" });
  by("kept").textContent = `kept ${time}`;
}

score.addEventListener("change", ({ detail }) => {
  const { doc } = score;
  choice.keepWithin(doc);
  for (const way of ["undo", "redo"]) {
    by(way).disabled = doc[way] === null;
    by(way).title = doc[way] === null ? `Nothing to ${way}` : `${way === "undo" ? "Undo" : "Do again"}: ${doc[way]}`;
  }
  if (document.activeElement !== by("film-name")) by("film-name").value = doc.name;
  document.title = `${doc.name} · Jay Lantern`;
  if (detail.said) say(detail.said);
  if (detail.fresh && Number(document.body.dataset.revision) !== doc.revision) {
    document.body.dataset.revision = doc.revision;
    keptAt(new Date());
    tell("jay:changed");
  }
});
choice.addEventListener("change", markPassage);
busy.addEventListener("revision", () => score.load().catch(() => {}));
busy.addEventListener("jobs", () => tell("jay:jobs"));
by("undo").addEventListener("click", () => saying(() => score.undo()));
by("redo").addEventListener("click", () => saying(() => score.redo()));
by("film-name").addEventListener("change", (event) => saying(() => score.do("rename_project", { name: event.target.value })));
by("film-name").addEventListener("keydown", (event) => event.key === "Enter" && event.target.blur());
by("show-keys").addEventListener("click", () => by("keys").showModal());

const jump = (seconds) => () => {
  player.seek(player.now_n + seconds * RATE);
  timeline.reveal(player.now_n);
};
const frame = () => {
  const media = Object.values(score.doc.media).find((each) => each.fps);
  return 1 / (media?.fps ?? 25);
};
const step = (name) => () => document.querySelector(`.steps a[data-step="${name}"]`).click();

bindKeys(
  [
    { keys: "Space", says: "Play or pause", run: () => transport.toggle() },
    { keys: "B", says: "Both ways: ducked or plain", run: () => transport.hear(player.variant === "ducked" ? "plain" : "ducked") },
    { keys: "O", says: "Round and round: loop the chosen passage", run: () => transport.toggleLoop() },
    { keys: ",", says: "Passage before", run: () => transport.step(-1) },
    { keys: ".", says: "Passage after", run: () => transport.step(1) },
    { keys: "←", says: "One second back", run: jump(-1) },
    { keys: "→", says: "One second on", run: jump(1) },
    { keys: "Shift+←", says: "One frame back", run: () => jump(-frame())() },
    { keys: "Shift+→", says: "One frame on", run: () => jump(frame())() },
    { keys: "Home", says: "To the start", run: () => jump(-Infinity)() },
    { keys: "End", says: "To the end", run: () => jump(Infinity)() },
    { keys: "+ or =", says: "Look closer", run: () => by("zoom-in").click() },
    { keys: "−", says: "Show more", run: () => by("zoom-out").click() },
    { keys: "F", says: "Show all", run: () => timeline.fit() },
    { keys: "Ctrl+Z", says: "Undo", run: () => saying(() => score.undo()) },
    { keys: "Ctrl+Shift+Z or Ctrl+Y", says: "Do again what was undone", run: () => saying(() => score.redo()) },
    { keys: "1", says: "Lay out", run: step("layout") },
    { keys: "2", says: "Tag", run: step("tag") },
    { keys: "3", says: "Duck", run: step("duck") },
    { keys: "4", says: "Hand off", run: step("handoff") },
    { keys: "Alt+← or Alt+→", says: "Move the clip that has the focus by a tenth of a second; with Shift by one second", run: () => {} },
    { keys: "?", says: "This list", run: () => by("keys").showModal() },
  ],
  by("keys"),
);

giveKeysBack();
keptAt(new Date(by("kept").dataset.at));
timeline.peaks.addEventListener("arrived", drawMedia);
