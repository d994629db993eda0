// Pure: the course of fades for drawing; what is heard is made on the server.

const COURSES = {
  straight: (x) => x,
  round: (x) => Math.sin((Math.PI / 2) * x),
  eased: (x) => 0.5 - 0.5 * Math.cos(Math.PI * x),
  late: (x) => (1000 ** x - 1) / 999,
};

/** Amplitude of a fade in at a share of its length. */
function rise(shape, x) {
  return COURSES[shape](Math.min(Math.max(x, 0), 1));
}

/** Amplitude of a clip's fades at a time of the timeline. */
export function fadeAt(clip, time_n) {
  const inside = time_n - clip.start_n;
  let value = 1;
  if (inside < clip.heard_in_n) value *= rise(clip.fade_in_shape, inside / clip.heard_in_n);
  const left = clip.length_n - inside;
  if (left < clip.heard_out_n) value *= rise(clip.fade_out_shape, left / clip.heard_out_n);
  return value;
}
