// What is pressed just now: a panel must not be drawn anew under the pointer between press and release, or the click is lost.

/** @type {Node | null} */
let pressed = null;
/** @type {(() => void)[]} */
let waiting = [];

const released = () =>
  setTimeout(() => {
    pressed = null; // the click has been dispatched by now
    const due = waiting;
    waiting = [];
    for (const work of due) work();
  });

document.addEventListener("pointerdown", (event) => (pressed = /** @type {Node} */ (event.target)), true);
document.addEventListener("pointerup", released, true);
document.addEventListener("pointercancel", released, true);

/** Do something to an element at once, or, while something in it is pressed, right after the release. @param {Element} element @param {() => void} work */
export function whenReleased(element, work) {
  if (pressed && element.contains(pressed)) waiting.push(work);
  else work();
}
