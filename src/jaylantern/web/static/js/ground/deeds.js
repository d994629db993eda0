// Clicks inside panels that come from the server: an element says by a data attribute what is to be done, and with what.

const ROWS = new Set(["passage", "aside"]); // whole rows that are pressed

/**
 * @param {Record<string, (value: any, data: DOMStringMap, element: HTMLElement) => void>} deeds by the name of the attribute in camel case
 * @param {{once: string[]}} how `once`: deeds that a double click does once
 */
export function listenForDeeds(deeds, { once }) {
  const names = Object.keys(deeds);
  const clickable = names.map((name) => (ROWS.has(name) ? `tr[data-${name}]` : `[data-${dashed(name)}]`)).join();
  document.addEventListener("click", (event) => {
    const at = event.target.closest(clickable);
    if (!at) return;
    const name = names.find((each) => at.dataset[each] !== undefined);
    if (event.detail > 1 && once.includes(name)) return;
    deeds[name](at.dataset[name], at.dataset, at);
  });
}

const dashed = (name) => name.replace(/[A-Z]/g, (big) => `-${big.toLowerCase()}`);
