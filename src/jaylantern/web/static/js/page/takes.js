// A voice take that is recorded: drawn on the lanes while it grows, ended from anywhere, counted in the head.

/** @param {{recorder: any, timeline: any, tray: any, panels: any, busy: any}} pieces */
export function tieTakes({ recorder, timeline, tray, panels, busy }) {
  const chip = document.getElementById("takes-chip");
  recorder.addEventListener("part", ({ detail }) => timeline.showTake({ start_n: recorder.take.at_n, stop_n: recorder.take.at_n + detail }));
  recorder.addEventListener("ended", () => timeline.showTake(null));
  document.getElementById("on-air").addEventListener("click", () => recorder.askStop());
  recorder.addEventListener("enough", () => {
    if (tray.takes) tray.takes.record();
    else panels.show("take");
  });
  busy.addEventListener("takes", ({ detail: count }) => {
    chip.hidden = !count || recorder.active;
    chip.querySelector("span").textContent = count === 1 ? "a take in hand" : `${count} takes in hand`;
    if (tray.takes && !recorder.active && tray.takes.count !== count) tray.takes.list();
  });
  chip.addEventListener("click", () => {
    if (tray.step === "layout") panels.open("take");
    else panels.show("take");
  });
  window.addEventListener("beforeunload", (event) => {
    if (recorder.active) event.preventDefault(); // leaving would end the take: the browser asks
  });
}
