// What is wrong with how a page lies on the screen: sideways scrolling, words and controls cut off, controls that cover each
// other or are too small to hit. Answers sentences; none when all is well.
(() => {
  const LEAST_PX = 24; // WCAG 2.2, success criterion 2.5.8 (target size, minimum)
  const SLACK_PX = 1.5;
  const CONTROL = "button, a[href], select, textarea, summary, [role=slider], [role=separator], [tabindex='0'], input:not([type=hidden]):not([type=file])";
  const found = [];
  const top = document.querySelector("dialog[open]") ?? document.querySelector(".menu") ?? document.querySelector(".drop-card:popover-open") ?? document.body;

  const name = (el) => {
    const words = (el.getAttribute("aria-label") ?? el.id) || el.textContent.trim().replace(/\s+/g, " ").slice(0, 30) || el.className;
    return `${el.tagName.toLowerCase()}.${String(el.className.baseVal ?? el.className).split(" ")[0]} “${words}”`;
  };
  const shown = (el) => el.checkVisibility({ checkOpacity: true, checkVisibilityCSS: true }) && !el.closest(".visually-hidden, [aria-hidden=true] .figure");
  const scrolls = (style, axis) => /auto|scroll/.test(style[`overflow-${axis}`]);

  /** A function of an element that is worked out once for each. */
  const once = (work) => {
    const known = new Map();
    return (el) => known.get(el) ?? known.set(el, work(el)).get(el);
  };
  /** How an element cuts off what is in it, and where it lies. */
  const frame = once((el) => {
    const style = getComputedStyle(el);
    const { overflowX, overflowY, display, position } = style;
    const cuts = display !== "contents" && (overflowX !== "visible" || overflowY !== "visible");
    return {
      cuts,
      x: overflowX !== "visible",
      y: overflowY !== "visible",
      scrollsX: scrolls(style, "x"),
      scrollsY: scrolls(style, "y"),
      fixed: position === "fixed",
      box: cuts ? el.getBoundingClientRect() : null,
    };
  });
  /** Are words shortened to an ellipsis in an element, or in one that it lies in? */
  const shortens = once((el) => {
    const style = getComputedStyle(el);
    return style.textOverflow === "ellipsis" || style.webkitLineClamp !== "none" || Boolean(el.parentElement && shortens(el.parentElement));
  });

  /** The part of an element's box that can be seen or scrolled to, and whether something cuts it off for good. */
  const seen = (el, box) => {
    let { left, right, top: up, bottom } = box;
    const cut = [];
    if (frame(el).fixed) return { left, right, top: up, bottom, cut };
    for (let at = el.parentElement; at && at !== document.documentElement; at = at.parentElement) {
      const { cuts, x, y, scrollsX, scrollsY, box: edge } = frame(at);
      if (!cuts) continue;
      if (x) {
        if (!scrollsX && (left < edge.left - SLACK_PX || right > edge.right + SLACK_PX)) cut.push(["across", at]);
        left = Math.max(left, edge.left);
        right = Math.min(right, edge.right);
      }
      if (y) {
        if (!scrollsY && (up < edge.top - SLACK_PX || bottom > edge.bottom + SLACK_PX)) cut.push(["down", at]);
        up = Math.max(up, edge.top);
        bottom = Math.min(bottom, edge.bottom);
      }
    }
    return { left, right, top: up, bottom, cut };
  };

  const page = document.scrollingElement;
  if (page.scrollWidth > innerWidth + 1) found.push(`the page is ${page.scrollWidth - innerWidth} px too wide`);
  for (const el of top.querySelectorAll("*")) {
    if (!shown(el) || el.closest("svg, .tl-rows canvas")) continue;
    const style = getComputedStyle(el);
    if (scrolls(style, "x") && el.scrollWidth > el.clientWidth + 1 && style["overflow-x"] !== "hidden") found.push(`${name(el)} scrolls sideways by ${el.scrollWidth - el.clientWidth} px`);
    const text = [...el.childNodes].some((node) => node.nodeType === 3 && node.textContent.trim());
    const control = el.matches(CONTROL);
    if (!text && !control) continue;
    const box = el.getBoundingClientRect();
    if (box.width < 1 || box.height < 1 || el.matches(".clip")) continue;
    const { cut } = seen(el, box);
    const ellipsis = el.closest(".lane-word") || shortens(el);
    for (const [way, by] of cut) if (!(way === "across" && ellipsis) && !(way === "down" && getComputedStyle(by).webkitLineClamp !== "none")) found.push(`${name(el)} is cut off ${way} by ${name(by)}`);
    if (text && style["overflow-x"] === "hidden" && el.scrollWidth > el.clientWidth + 1 && style["text-overflow"] !== "ellipsis" && style.webkitLineClamp === "none") found.push(`words of ${name(el)} are cut off`);
    if (text && style["overflow-x"] === "visible" && el.clientWidth && el.scrollWidth > el.clientWidth + 1 && !el.matches(".clip, output")) found.push(`words of ${name(el)} spill over its edge by ${el.scrollWidth - el.clientWidth} px`);
    if (el.matches("input[inputmode=decimal]") && el.scrollWidth > el.clientWidth + 1) found.push(`the figure in ${name(el)} is cut off: ${el.value}`);
    if (el.matches("select")) {
      const pen = (window.layoutPen ??= document.createElement("canvas").getContext("2d"));
      pen.font = `${style.fontWeight} ${style.fontSize} ${style.fontFamily}`;
      const room = el.clientWidth - parseFloat(style.paddingLeft) - parseFloat(style.paddingRight) - 0;
      if (style["text-overflow"] !== "ellipsis" && pen.measureText(el.selectedOptions[0]?.text ?? "").width > room + 2) found.push(`the choice in ${name(el)} is cut off: ${el.selectedOptions[0].text}`);
    }
    if (control && top === document.body && page.scrollHeight <= innerHeight + 1 && style.position !== "absolute" && (box.right > innerWidth + 1 || (box.bottom > innerHeight + 1 && !el.closest(".scrolls") && seen(el, box).bottom > innerHeight + 1))) found.push(`${name(el)} lies off the screen`);
  }
  const controls = [...top.querySelectorAll(CONTROL)].filter((el) => shown(el) && !el.matches(".clip, .handle") && !el.closest(".visually-hidden"));
  const inSight = once((el) => seen(el, el.getBoundingClientRect()));
  for (const el of controls) {
    const target = el.matches("input[type=checkbox]") && el.closest("label") ? el.closest("label") : el;
    const whole = target.getBoundingClientRect();
    if (!whole.width || !whole.height) continue;
    const { left, right, top: up, bottom } = inSight(target);
    const inline = getComputedStyle(el).display === "inline" && el.matches("a, .link");
    if (!inline && (whole.width < LEAST_PX - 0.5 || whole.height < LEAST_PX - 0.5)) found.push(`${name(el)} is only ${whole.width.toFixed(0)} × ${whole.height.toFixed(0)} px`);
    const [x, y] = [(left + right) / 2, (up + bottom) / 2];
    if (right - left < 6 || bottom - up < 6 || x < 0 || y < 0 || x > innerWidth || y > innerHeight || bottom - up < whole.height - 2 || right - left < whole.width - 2) continue;
    const hit = document.elementFromPoint(x, y);
    if (hit && !target.contains(hit) && !hit.contains(target) && !el.labels?.length) found.push(`${name(el)} is covered by ${name(hit)}`);
    for (const other of controls) {
      if (other === el) continue;
      const b = inSight(other);
      if (b.left >= right || b.right <= left || b.top >= bottom || b.bottom <= up) continue;
      if (el.contains(other) || other.contains(el) || other.compareDocumentPosition(el) & 2) continue;
      const across = Math.min(right, b.right) - Math.max(left, b.left);
      const down = Math.min(bottom, b.bottom) - Math.max(up, b.top);
      if (across > 2 && down > 2 && !target.contains(other)) found.push(`${name(el)} overlaps ${name(other)} by ${across.toFixed(0)} × ${down.toFixed(0)} px`);
    }
  }
  return [...new Set(found)];
})();
