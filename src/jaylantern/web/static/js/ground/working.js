// What takes long shows that it works: the line at the foot of the page says so from a quarter of a second on.

const SHOWN_MS = 250;

let under_way = 0;
let timer = 0;

/** Something was asked for by a person; answers what tells that it is there. @returns {() => void} */
export function working() {
  under_way += 1;
  if (under_way === 1) timer = Number(setTimeout(() => document.body?.classList.add("working"), SHOWN_MS));
  let over = false;
  return () => {
    if (over) return;
    over = true;
    under_way -= 1;
    if (under_way) return;
    clearTimeout(timer);
    document.body?.classList.remove("working");
  };
}
