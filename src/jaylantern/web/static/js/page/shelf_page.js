// The shelf: dropped or chosen files begin a new film; a project that came as a file opens as one.

import { ask, sendJson } from "../ground/api.js";
import { newGesture } from "../ground/gesture.js";
import { saying } from "../ground/said.js";
import { Upload, takeDrops } from "../ground/uploads.js";

const CAPTIONS = /\.(vtt|srt)$/i;
const PROJECT = /\.(zip|otio|edl)$/i;
const RATES = ["24000/1001", "24", "25", "30000/1001", "30", "50", "60000/1001", "60"];
const region = document.getElementById("arriving");

/** Files of sound and picture begin one film; every file that is a project opens as one. */
function begin(files) {
  const media = files.filter((file) => !PROJECT.test(file.name));
  const opened = files.filter((file) => PROJECT.test(file.name));
  if (media.length) beginFilm(media);
  for (const file of opened) open(file, { alone: files.length === 1 });
}

async function made(name) {
  const form = new FormData(document.getElementById("begin"));
  if (!form.get("name")) form.set("name", name.replace(/\.[^.]+$/, ""));
  const answer = await saying(async () => (await ask("/projects", { method: "POST", body: form })).json());
  return answer && { id: answer.id, name: form.get("name") };
}

async function beginFilm(brought) {
  const files = brought.toSorted((a, b) => Number(CAPTIONS.test(a.name)) - Number(CAPTIONS.test(b.name))); // they belong to what is there
  const film = await made(files[0].name);
  if (!film) return;
  region.hidden = false;
  const batch = files.length > 1 ? { batch: newGesture(), row: "own" } : {}; // they land in their order
  const uploads = files.map((file) => new Upload(file, film.id, 0, batch));
  const runs = uploads.map((upload) => show(region, upload));
  for (const run of runs) await run();
  if (uploads.every((upload) => upload.state === "done")) goOn(film.id);
  else region.append(wayTo(film.id, `Go on to ${film.name}`));
}

/** Opens a project as a film of its own; of one that can't be read nothing is left but the word why. */
async function open(file, { alone }) {
  region.hidden = false;
  const fps = /\.edl$/i.test(file.name) ? await askRate(file) : null;
  const film = await made(file.name);
  if (!film) return;
  const upload = new Upload(file, film.id, 0, fps ? { fps } : {});
  upload.opens = true;
  upload.undo = async () => {
    await upload.giveUp();
    await upload.ended();
    await sendJson(`/projects/${film.id}`, {}, "DELETE");
  };
  await show(region, upload)();
  if (upload.state !== "done") return;
  if (alone) goOn(film.id);
  else region.append(wayTo(film.id, `Go on to ${file.name}`));
}

/** An edit decision list does not say how many frames a second it counts. */
function askRate(file) {
  const row = document.createElement("form");
  row.className = "busy-row rate-row";
  const rates = RATES.map((rate) => `<option value="${rate}">${Number(rate.split("/").map(Number).reduce((a, b) => a / b).toFixed(3))}</option>`).join("");
  row.innerHTML = `<label><b class="busy-title"></b> counts in frames. How many a second? <select class="field small" name="fps"><option value="">as its timecodes suggest</option>${rates}</select></label><button class="btn btn-ink">Open</button>`;
  row.querySelector("b").textContent = file.name;
  region.append(row);
  row.querySelector("select").focus();
  return new Promise((done) => {
    row.addEventListener("submit", (event) => {
      event.preventDefault();
      done(row.querySelector("select").value);
      row.remove();
    });
  });
}

const goOn = (id) => location.assign(`/projects/${id}/layout`);

function wayTo(id, words) {
  const link = document.createElement("a");
  link.href = `/projects/${id}/layout`;
  link.textContent = words;
  return link;
}

function show(region, upload) {
  const row = document.createElement("div");
  row.className = "busy-row";
  row.innerHTML = '<span class="busy-title"></span><progress max="1" value="0"></progress><button type="button" class="btn-line small">Stop</button>';
  row.querySelector(".busy-title").textContent = upload.file.name;
  row.querySelector("button").addEventListener("click", () => upload.stop());
  region.append(row);
  upload.addEventListener("progress", () => {
    row.querySelector("progress").value = upload.share;
  });
  for (const end of ["failed", "stopped"]) {
    upload.addEventListener(end, () => {
      row.querySelector("progress").remove();
      row.querySelector("button").replaceWith(upload.message);
    });
  }
  return () => upload.run();
}

document.getElementById("begin").addEventListener("submit", (event) => {
  event.submitter.disabled = true; // a double click begins one film, not two
});
window.addEventListener("pageshow", () => {
  document.querySelector("#begin button").disabled = false;
});
takeDrops(begin);
document.getElementById("pick").addEventListener("change", (event) => {
  begin([...event.target.files]);
  event.target.value = "";
});
