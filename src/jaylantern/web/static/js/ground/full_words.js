// Words that are cut off show whole while the pointer or the focus is on them; what has the focus shows its title, too.

const GAP_PX = 6;

export class FullWords {
  constructor() {
    this._box = document.createElement("div");
    this._box.className = "whole-words";
    this._box.setAttribute("role", "tooltip");
    this._box.hidden = true;
    document.getElementById("over").append(this._box);
    this._at = null;
    document.addEventListener("pointerover", (event) => this._look(event.target, false));
    document.addEventListener("focusin", (event) => event.target.matches?.(":focus-visible") && this._look(event.target, true));
    for (const away of ["focusout", "pointerdown", "keydown"]) document.addEventListener(away, () => this._hide(), { capture: true });
    document.addEventListener("scroll", () => this._hide(), { capture: true });
    document.documentElement.addEventListener("pointerleave", () => this._hide());
  }

  _look(target, focused) {
    if (target.nodeType !== 1 || this._box.contains(target)) return;
    const cut = [target, ...(focused ? target.querySelectorAll("*") : [])].find(isCut);
    const words = cut ? wordsOf(cut) : focused ? target.title : "";
    if (!words) {
      if (this._at && !this._at.contains(target)) this._hide();
      return;
    }
    this._at = target;
    this._box.textContent = words;
    this._box.hidden = false;
    const box = (cut ?? target).getBoundingClientRect();
    const { offsetWidth: width, offsetHeight: height } = this._box;
    const under = box.bottom + GAP_PX + height < innerHeight;
    this._box.style.left = `${Math.max(4, Math.min(box.left, innerWidth - width - 4))}px`;
    this._box.style.top = `${under ? box.bottom + GAP_PX : Math.max(4, box.top - GAP_PX - height)}px`;
  }

  _hide() {
    this._box.hidden = true;
    this._at = null;
  }
}

function isCut(element) {
  if (element.matches("select")) return false;
  if (element.matches("input")) return element.type !== "range" && element.type !== "checkbox" && element.scrollWidth > element.clientWidth + 1;
  const style = getComputedStyle(element);
  if (style.textOverflow !== "ellipsis" && style.webkitLineClamp === "none") return false;
  return element.scrollWidth > element.clientWidth + 1 || element.scrollHeight > element.clientHeight + 3;
}

const wordsOf = (element) => (element.matches("input") ? element.value : element.textContent.trim());
