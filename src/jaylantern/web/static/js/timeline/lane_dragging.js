// Lanes taken by the mouse: at the lower edge of the head to make one higher, at the grip to put it elsewhere in the order.

import { saying } from "../ground/said.js";

/** The lower edge of a lane's head is dragged. */
export function dragHeight(event, { gestures, from_px, resize }) {
  gestures.follow(event, { move: (moved) => resize(from_px + moved.clientY - event.clientY) });
}

/**
 * A lane is dragged to another place in the order.
 * @param {PointerEvent} event @param {{gestures: any, pageDoc: any, lane_id: number, rows: HTMLElement[]}} what `rows` in the order of the lanes
 */
export function dragLane(event, { gestures, pageDoc, lane_id, rows }) {
  let to = null;
  gestures.follow(event, {
    move: (moved) => {
      to = rows.filter((row) => row.getBoundingClientRect().top + row.offsetHeight / 2 < moved.clientY).length;
      rows.forEach((row, i) => {
        row.classList.toggle("drop-above", i === to);
        row.classList.toggle("drop-below", i === to - 1 && to === rows.length);
      });
    },
    done: (finished) => {
      for (const row of rows) row.classList.remove("drop-above", "drop-below");
      const from = pageDoc.doc.lanes.findIndex((lane) => lane.id === lane_id);
      const place = to > from ? to - 1 : to;
      if (finished && to !== null && place !== from) saying(() => pageDoc.do("order_lane", { lane_id, to: place }));
    },
  });
}
