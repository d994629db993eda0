// The shelf: dropped or chosen files begin a new film.

import { ask } from "./api.js";
import { saying } from "./said.js";
import { Upload, takeDrops } from "./uploads.js";

async function begin(files) {
  const form = new FormData(document.getElementById("begin"));
  if (!form.get("name")) form.set("name", files[0].name.replace(/\.[^.]+$/, ""));
  const made = await saying(async () => (await ask("/projects", { method: "POST", body: form })).json());
  if (!made) return;
  const region = document.getElementById("arriving");
  region.hidden = false;
  const uploads = files.map((file) => new Upload(file, made.id, 0));
  await Promise.all(uploads.map((upload) => show(region, upload)));
  const there = `/projects/${made.id}/layout`;
  if (uploads.every((upload) => upload.state === "done")) {
    location.assign(there);
    return;
  }
  const link = document.createElement("a");
  link.href = there;
  link.textContent = `Go on to ${form.get("name")}`;
  region.append(link);
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
  return upload.run();
}

document.getElementById("begin").addEventListener("submit", (event) => {
  event.submitter.disabled = true; // a double click begins one film, not two
});
window.addEventListener("pageshow", () => {
  document.querySelector("#begin button").disabled = false;
});
takeDrops(begin);
document.getElementById("pick").addEventListener("change", (event) => begin([...event.target.files]));
