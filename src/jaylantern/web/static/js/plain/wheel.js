// Pure: what a turn of the wheel means over the timeline. A pinch on a trackpad comes as a wheel with Ctrl held, in small steps.

const LINE_PX = 16;
const WHEEL = 0.0016; // how much a pixel of the wheel zooms
const PINCH = 0.01;
const PINCH_PX = 40; // smaller steps with Ctrl are a pinch

/**
 * @param {{deltaX: number, deltaY: number, deltaMode: number, ctrlKey: boolean, metaKey: boolean, shiftKey: boolean}} event
 * @param {{over_lanes: boolean}} where
 * @returns {{zoom?: number, across_px?: number} | null} a factor for what a pixel shows, or pixels sideways; null: the page scrolls as pages do
 */
export function wheelWay(event, { over_lanes }) {
  const scale = event.deltaMode === 1 ? LINE_PX : 1;
  const [x, y] = [event.deltaX * scale, event.deltaY * scale];
  if (event.ctrlKey || event.metaKey) {
    const pinched = event.deltaMode === 0 && Math.abs(y) < PINCH_PX;
    return { zoom: Math.exp(y * (pinched ? PINCH : WHEEL)) };
  }
  if (event.shiftKey) return { across_px: x || y };
  if (Math.abs(x) > Math.abs(y)) return { across_px: x };
  return over_lanes ? null : { across_px: y };
}
