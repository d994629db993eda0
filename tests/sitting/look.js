// What the oracle sees of a page: put into it before its own scripts, it notes what a person would not see.
(() => {
  const CONTROL = "button, a[href], select, textarea, summary, [role=slider], [role=separator], [tabindex='0'], input:not([type=hidden]):not([type=file])";
  const SLOW_MS = 700; // a request that takes longer shows that it works; the page says so after 250 ms
  const seen = { pending: 0, silent: [] };
  const plain = window.fetch;
  window.fetch = async (url, options = {}) => {
    const changes = options.method === "POST" || options.method === "DELETE";
    if (!changes) return plain(url, options);
    seen.pending += 1;
    const timer = setTimeout(() => document.body.classList.contains("working") || seen.silent.push(`${options.method} ${url}`), SLOW_MS);
    try {
      return await plain(url, options);
    } finally {
      clearTimeout(timer);
      seen.pending -= 1;
    }
  };

  const shown = (el) => el.checkVisibility({ checkOpacity: true, checkVisibilityCSS: true }) && !el.closest(".visually-hidden, [inert]");
  const top = () => document.querySelector("dialog[open]") ?? document.querySelector(".menu") ?? document.querySelector(".drop-card:popover-open");
  const words = (el) => (el.getAttribute("aria-label") || el.textContent || el.title || el.id).trim().replace(/\s+/g, " ").slice(0, 50);
  const named = (el) => `${el.tagName.toLowerCase()} ${el.id ? `#${el.id} ` : ""}“${words(el)}”`;

  /** The part of a box that is not scrolled away. */
  const within = (el) => {
    let { left, right, top: up, bottom } = el.getBoundingClientRect();
    for (let at = el.parentElement; at && at !== document.documentElement; at = at.parentElement) {
      const style = getComputedStyle(at);
      if (style.display === "contents" || (style.overflowX === "visible" && style.overflowY === "visible")) continue;
      const edge = at.getBoundingClientRect();
      [left, right, up, bottom] = [Math.max(left, edge.left), Math.min(right, edge.right), Math.max(up, edge.top), Math.min(bottom, edge.bottom)];
    }
    return { left: Math.max(left, 0), right: Math.min(right, innerWidth), top: Math.max(up, 0), bottom: Math.min(bottom, innerHeight) };
  };
  const controls = () =>
    [...document.querySelectorAll(CONTROL)].filter((el) => {
      if (!shown(el) || el.disabled) return false;
      const box = within(el);
      return box.right - box.left > 5 && box.bottom - box.top > 5;
    });
  const target = (el) => (el.matches("input[type=checkbox]") && el.closest("label")) || el;

  window.sitting = {
    seen,
    /** Controls that can be pressed, by name and place; below what is open over the page none. */
    pressable: () => {
      const over = top();
      return controls()
        .filter((el) => !el.matches(".clip, [role=slider], [role=separator]") && (!over || over.contains(el)))
        .map((el) => {
          const box = within(target(el));
          const kind = el.matches("input:not([type=checkbox]):not([type=range]), textarea") ? "field" : el.matches("select") ? "select" : el.matches("input[type=range]") ? "range" : "button";
          return { name: named(el), kind, x: (box.left + box.right) / 2, y: (box.top + box.bottom) / 2, where: el.closest("[data-tray], .drop-card, .menu, dialog, .transport, .top, .timeline, .checkup, .word-line")?.className ?? "" };
        });
    },
    /** Controls that can be seen where they can't be pressed, and what lies over them. */
    covered: () => {
      const over = top();
      return controls().flatMap((el) => {
        if (over && !over.contains(el)) return [];
        const box = within(target(el));
        const whole = target(el).getBoundingClientRect();
        if (box.right - box.left < whole.width - 2 || box.bottom - box.top < whole.height - 2) return [];
        const hit = document.elementFromPoint((box.left + box.right) / 2, (box.top + box.bottom) / 2);
        if (hit?.closest("thead")?.parentElement.contains(el)) return []; // scrolled below the head of its own table
        if (!hit || target(el).contains(hit) || hit.contains(target(el)) || hit.closest(".clip, .lane-body, .handle, .dip svg, .fold-handle, .tl-rows, label")) return [];
        return [`${named(el)} is covered by ${named(hit)}`];
      });
    },
    focus: () => {
      if (!document.hasFocus()) return ""; // Tab led past the first or last control, to the browser's own
      const at = document.activeElement;
      if (at === document.body || !at) return "the page as a whole";
      return at.checkVisibility() ? "" : `${named(at)}, which can't be seen`;
    },
    notes: () => [...document.querySelectorAll("#said .trouble")].map((el) => ({ text: el.dataset.text ?? el.textContent, about: el.dataset.about ?? "", since: Number(el.dataset.since ?? 0) })),
    now: () => performance.now(),
    inHand: () => {
      const { selection, pageDoc } = window.jayLantern;
      const at = selection.aside ?? pageDoc.doc?.passages[selection.passage];
      return at ? [at.start_n, at.stop_n] : null;
    },
  };
})();
