// Clicks and menus inside panels that come from the server.

import { sendJson } from "../ground/api.js";
import { listenForDeeds } from "../ground/deeds.js";
import { menuItems, openMenu } from "../ground/menu.js";
import { saying } from "../ground/said.js";
import { tell } from "../ground/tell.js";
import { RATE } from "../plain/units.js";

const SOUND = new Set(["mix", "music", "stems"]); // what is made in every form that is chosen
const OF_ROW = ["tag", "bystander", "mute", null, "zoom-chosen", "delete"];

/** @param {{pageDoc: any, selection: any, player: any, timeline: any, transport: any, tray: any, busy: any, actions: any[], act: (name: string) => void, bringingIn: any}} pieces */
export function listenInPanels({ pageDoc, selection, player, timeline, transport, tray, busy, actions, act, bringingIn }) {
  const asked = new Set(); // buttons whose request is on its way

  async function handOff(button, wanted) {
    const what = wanted === "data" ? /** @type {HTMLSelectElement} */ (document.getElementById("data-form")).value : wanted;
    if (asked.has(button)) return;
    asked.add(button);
    const ways = SOUND.has(what) ? [{}, ...tray.furtherForms] : [{}];
    for (const way of ways) await saying(() => sendJson(`${pageDoc.url}/exports`, { what, ...tray.formValues, ...way }));
    await busy.poll();
    asked.delete(button);
  }

  const ofJob = (path, then) => (job) => saying(() => sendJson(path(job))).then(then);
  listenForDeeds(
    {
      go: (at_n) => {
        player.seek(Number(at_n) - RATE);
        timeline.reveal(Number(at_n));
      },
      pick: (id) => document.getElementById(id).click(),
      choose: (index) => transport.goTo(Number(index)),
      passage: (index) => transport.goTo(Number(index)),
      aside: (stop_n, { start }) => transport.goToAside(Number(start), Number(stop_n)),
      act,
      setMode: (mode) => saying(() => pageDoc.do("set_settings", { settings: { mode } })),
      command: (name, { values }) => saying(() => pageDoc.do(name, JSON.parse(values))),
      place: (media_id) => saying(() => pageDoc.do("place", { media_id: Number(media_id), at_n: Math.round(player.now_n), ...bringingIn.placing })),
      history: (edit_id) => saying(() => pageDoc.goTo(Number(edit_id))),
      export: (what, _, button) => handOff(button, what),
      stop: ofJob((job) => `/jobs/${job}/stop`, () => busy.poll()),
      dismiss: ofJob((job) => `/jobs/${job}/dismiss`, () => busy.poll()),
      removeMade: ofJob((job) => `/exports/${job}/remove`, () => tell("jay:jobs")),
      bringBack: ofJob((job) => `/exports/${job}/bring-back`, () => tell("jay:jobs")),
    },
    { once: ["command", "place", "export"] },
  );
  document.addEventListener("contextmenu", (event) => {
    const row = /** @type {HTMLElement} */ (event.target).closest("tr[data-clip]");
    if (!(row instanceof HTMLElement)) return;
    event.preventDefault();
    const id = Number(row.dataset.clip);
    if (!selection.clips.has(id)) selection.choose([id]);
    openMenu({ x: event.clientX, y: event.clientY }, menuItems(actions, OF_ROW), "Chosen clips");
  });
}
