// A small dialog that asks for figures.

import { say } from "./said.js";
import { typed } from "../plain/typed.js";

/**
 * Ask for figures; `set` is called with them when all could be read. The last field is chosen.
 * @param {string} title
 * @param {{label: string, name: string, unit: string, value: string}[]} fields `name` is read out
 * @param {(...figures: number[]) => void} set
 * @param {string} unread what is said where one could not be read
 * @param {number} frame_s length of a frame of the picture, for times in frames
 */
export function askFigures(title, fields, set, unread, frame_s = 1 / 25) {
  const box = document.createElement("dialog");
  box.className = "exact card-paper";
  box.innerHTML = '<form method="dialog"><h2></h2><button class="btn btn-ink">Set</button></form>';
  const [form] = box.children;
  form.firstElementChild.textContent = title;
  const inputs = fields.map(({ label, name, unit, value }) => {
    const row = document.createElement("label");
    row.innerHTML = '<span></span> <span class="knob-field figure"><input inputmode="decimal" autocomplete="off"><span class="unit"></span></span>';
    row.firstElementChild.textContent = label;
    row.querySelector(".unit").textContent = unit;
    const input = row.querySelector("input");
    input.setAttribute("aria-label", name);
    input.value = value;
    form.lastElementChild.before(row);
    return input;
  });
  box.addEventListener("close", () => box.remove());
  form.addEventListener("submit", () => {
    const figures = inputs.map((input, i) => typed(input.value, fields[i].unit, frame_s));
    if (figures.some(Number.isNaN)) say(unread, { trouble: true });
    else set(...figures);
  });
  document.body.append(box);
  box.showModal();
  inputs.at(-1).select();
}
