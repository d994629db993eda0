// Pure: the colours of the night; those of tags stand with the tags.

import { TAGS } from "./vocabulary.js";

export const NIGHT = { ground: "#141C27", lane: "#182230", rule: "#2A3646", ink: "#F7F3EA", soft: "#93A1B2" };
export const LAMP = { bright: "#F2B03D", glow: "#FFD98A", ghost: "#5E4A22" };
export const JAY = "#6FB2F0";
export const HAND = "#8FE0BE"; // gain lines drawn by hand
export const BY_TAG = Object.fromEntries(TAGS.map((tag) => [tag.word, tag.night]));
export const GHOSTS = Object.fromEntries(TAGS.filter((tag) => tag.ghost).map((tag) => [tag.word, tag.ghost]));
export const PICTURE = "#7A8797";
export const FIGURES = '11px "Hyperlegible Mono", monospace';
export const WORDS = '600 11px "Hyperlegible", sans-serif';
