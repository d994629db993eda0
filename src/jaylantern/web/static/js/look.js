// Pure: the colours of the night, by tag.

export const NIGHT = { ground: "#141C27", lane: "#182230", rule: "#2A3646", ink: "#F7F3EA", soft: "#93A1B2" };
export const LAMP = { bright: "#F2B03D", glow: "#FFD98A", ghost: "#5E4A22" };
export const JAY = "#6FB2F0";
export const BY_TAG = {
  dialogue: JAY,
  music: LAMP.bright,
  ambience: "#7FA06A",
  effects: "#A58BC0",
  untagged: "#7A8797",
};
export const GHOSTS = { music: LAMP.ghost, ambience: "#35452F" };
export const PICTURE = "#7A8797";
export const FIGURES = '11px "Hyperlegible Mono", monospace';
export const WORDS = '600 11px "Hyperlegible", sans-serif';
