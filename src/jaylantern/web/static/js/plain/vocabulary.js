// Pure: the words this page shares with the program. Written by ./jay vocabulary from the tables of the program; change those.

/**
 * What each command takes.
 * @typedef {object} Commands
 * @property {{clip_ids: number[], by_n: number, lanes_by?: number, leader_id?: number|null, how?: "own"|"insert"|"overwrite", gesture?: string|null}} move_clips
 * @property {{clip_ids: number[], edge: "start"|"stop", to_n?: number|null, by_n?: number|null, gesture?: string|null}} trim_clips
 * @property {{clip_ids: number[], by_n: number, gesture?: string|null}} slip_clips
 * @property {{at_n: number, clip_ids?: number[]|null, gesture?: string|null}} split_clips
 * @property {{clip_ids: number[], close?: "none"|"lane"|"all", cut?: boolean, gesture?: string|null}} delete_clips
 * @property {{lane_id?: number|null, gesture?: string|null}} close_gaps
 * @property {{start_n: number, stop_n: number, gesture?: string|null}} cut_out
 * @property {{copied: (any)[], at_n: number, gesture?: string|null}} paste_clips
 * @property {{clip_ids: number[], gesture?: string|null}} duplicate_clips
 * @property {{clip_ids: number[], gesture?: string|null}} link_clips
 * @property {{clip_ids: number[], gesture?: string|null}} unlink_clips
 * @property {{clip_ids: number[], longest_ms: number, breath_ms: number, all_lanes?: boolean, gesture?: string|null}} cut_pauses
 * @property {{clip_ids: number[], gain_db?: number, muted?: boolean, channels?: "both"|"left"|"right"|"mono", bystander?: boolean, trigger?: "voice"|"level"|"clip"|"captions"|null, level_db?: number|null, gesture?: string|null}} set_clips
 * @property {{clip_ids: number[], by_db: number, gesture?: string|null}} raise_clips
 * @property {{clip_ids: number[], end: "fade_in"|"fade_out", length_n?: number|null, shape?: "straight"|"round"|"eased"|"late"|null, gesture?: string|null}} fade_clips
 * @property {{clip_ids: number[], from_id: number, gesture?: string|null}} copy_sound
 * @property {{clip_ids: number[], tag?: "narration"|"dialogue"|"music"|"effects"|"atmosphere"|"untagged"|null, gesture?: string|null}} tag_clips
 * @property {{tags: Record<string, "narration"|"dialogue"|"music"|"effects"|"atmosphere"|"untagged">, gesture?: string|null}} tag_each
 * @property {{kind?: "picture"|"sound", name?: string, below?: number|null, gesture?: string|null}} add_lane
 * @property {{lane_id: number, name?: string, gain_db?: number, muted?: boolean, soloed?: boolean, bystander?: boolean, trigger?: "voice"|"level"|"clip"|"captions", level_db?: number, gesture?: string|null}} set_lane
 * @property {{lane_id: number, tag: "narration"|"dialogue"|"music"|"effects"|"atmosphere"|"untagged", clear?: boolean, gesture?: string|null}} tag_lane
 * @property {{lane_id: number, to: number, gesture?: string|null}} order_lane
 * @property {{lane_id: number, gesture?: string|null}} remove_lane
 * @property {{at_n: number, name?: string, gesture?: string|null}} add_marker
 * @property {{marker_id: number, name?: string, at_n?: number, gesture?: string|null}} set_marker
 * @property {{marker_id: number, gesture?: string|null}} remove_marker
 * @property {{at_n?: number|null, gesture?: string|null}} set_in
 * @property {{at_n?: number|null, gesture?: string|null}} set_out
 * @property {{gesture?: string|null}} clear_range
 * @property {{media_id: number, at_n: number, how?: "own"|"insert"|"overwrite", lane_id?: number|null, lane_ids?: number[], name?: string, gesture?: string|null}} place
 * @property {{media_id: number, name: string, at_n: number, offset_n: number, lane_id?: number|null, gesture?: string|null}} lay_take
 * @property {{missing_id: number, media_id: number, origins?: (number)[], name: string, gesture?: string|null}} relink
 * @property {{gesture?: string|null}} open
 * @property {{perch: string, to: number, gesture?: string|null}} move_perch
 * @property {{lane_id: number, gesture?: string|null}} raise_lane
 * @property {{lane_id: number, gesture?: string|null}} lower_lane
 * @property {{upper: string, lower: string, own: Record<string, number|string|null>, gesture?: string|null}} set_pair
 * @property {{clip_ids?: number[]|null, gesture?: string|null}} duck_only
 * @property {{pin_id: number, gesture?: string|null}} lift_pin
 * @property {{gesture?: string|null}} lift_passages
 * @property {{speech?: boolean, index?: number|null, start_n?: number|null, stop_n?: number|null, clip_ids?: number[]|null, gesture?: string|null}} mark_speech
 * @property {{index: number, edge: "start"|"stop", to_n: number, gesture?: string|null}} move_edge
 * @property {{at_n: number, gesture?: string|null}} split_passage
 * @property {{index: number, gesture?: string|null}} join_passages
 * @property {{index: number, own?: Record<string, number|string|null>|null, none?: boolean|null, gesture?: string|null}} set_passage
 * @property {{start_n: number, stop_n: number, by_db: number, gesture?: string|null}} duck_further
 * @property {{index?: number|null, start_n?: number|null, stop_n?: number|null, gesture?: string|null}} lift_passage
 * @property {{lane_id: number, points: (any)[], gesture?: string|null}} move_points
 * @property {{lane_id: number, at_n: number, gain_db: number, dipped?: boolean, gesture?: string|null}} add_point
 * @property {{lane_id: number, points: (any)[], gesture?: string|null}} remove_points
 * @property {{lane_id: number, gesture?: string|null}} freeze_curve
 * @property {{lane_id: number, gesture?: string|null}} clear_curve
 * @property {{lane_id: number, gesture?: string|null}} follow_speech
 * @property {{clip_id: number, points: (any)[], gesture?: string|null}} move_line
 * @property {{clip_id: number, at_n: number, gain_db: number, gesture?: string|null}} add_to_line
 * @property {{clip_id: number, at_n: (number)[], gesture?: string|null}} remove_from_line
 * @property {{clip_id: number, at_n: (number)[], ramp: "decibel"|"amplitude"|"eased", gesture?: string|null}} shape_line
 * @property {{clip_ids: number[], start_n: number, stop_n: number, by_db: number, gesture?: string|null}} raise_stretch
 * @property {{clip_ids: number[], start_n: number, stop_n: number, gesture?: string|null}} level_stretch
 * @property {{clip_ids: number[], factor: number, gesture?: string|null}} scale_line
 * @property {{clip_ids: number[], gesture?: string|null}} clear_line
 * @property {{clip_ids: number[], from_id: number, gesture?: string|null}} copy_line
 * @property {{clip_ids: number[], gesture?: string|null}} line_from_ducking
 * @property {{clip_ids: number[], gesture?: string|null}} line_into_ducking
 * @property {{lane_id: number, time_n: (number)[], gain_db: (number)[], over?: Record<string, any[][]>, gesture?: string|null}} ride_lane
 * @property {{lane_id: number, parts: Record<string, number|null>, gesture?: string|null}} care_for_lane
 * @property {{clip_ids: number[], parts: Record<string, number|null>, gesture?: string|null}} care_for_clips
 * @property {{lane_id: number, start: string, gesture?: string|null}} start_care
 * @property {{clip_ids: number[], gesture?: string|null}} care_as_lane
 * @property {{clip_id: number, at_n: number, spared?: boolean, gesture?: string|null}} spare_place
 * @property {{settings: Record<string, number|string>, gesture?: string|null}} set_settings
 * @property {{name?: string, preset_id?: number, gesture?: string|null}} apply_preset
 * @property {{project_id: number, gesture?: string|null}} duck_as_in
 * @property {{name: string, gesture?: string|null}} rename_project
 * @property {{gesture?: string|null}} hold_draft
 * @property {{gesture?: string|null}} swap_drafts
 * @property {{letter: "A"|"B", gesture?: string|null}} choose_draft
 * @property {{name: string, form: "vtt"|"srt", cues: any, head?: string, tail?: string, encoding?: string, gesture?: string|null}} add_captions
 * @property {{captions_id: number, name?: string, checked?: boolean, gesture?: string|null}} set_captions
 * @property {{captions_id: number, by_n: number, gesture?: string|null}} shift_captions
 * @property {{captions_id: number, encoding: "cp1252"|"cp1250"|"cp1251"|"cp1253"|"cp1254"|"cp1257"|"cp1255"|"cp1256"|"cp850"|"cp932"|"cp949"|"gb18030"|"big5", gesture?: string|null}} reread_captions
 * @property {{captions_id: number, gesture?: string|null}} tie_captions
 * @property {{captions_id: number, gesture?: string|null}} remove_captions
 * @property {{subject?: "dialogue"|"music"|"chosen"|"soft"|"mix", how?: "each"|"all", by?: "loudness"|"true_peak"|"sample_peak", target: number|string, clip_ids?: number[], gesture?: string|null}} match
 * @property {{clip_id: number, number?: number, length_n?: number, until?: ""|"picture"|"talk"|"range"|"marker", pieces?: number, exact?: boolean, keep_start?: boolean, keep_end?: boolean, protect?: ([number, number])[], leave_out?: ([number, number])[], chosen?: ([number, number])[], forbidden?: ([number, number])[], gesture?: string|null}} tailor_clip
 * @property {{clip_id: number, length_n?: number, until?: ""|"picture"|"talk"|"range"|"marker", gesture?: string|null}} stretch_clip
 * @property {{clip_id: number, fold: number, gesture?: string|null}} forbid_fold
 * @property {{clip_id: number, fold: number, by: number, gesture?: string|null}} move_fold
 * @property {{clip_id: number, gesture?: string|null}} plain_clip
 * @property {{gesture?: string|null}} refit
 */

/** @typedef {keyof Commands} CommandName */

/** @typedef {{word: string, letter: string, night: string, ghost: string, height_px: number, speaks: boolean}} Tag */

/** @type {Tag[]} */
export const TAGS = [
  { word: "narration", letter: "n", night: "#8ED6DA", ghost: "", height_px: 60, speaks: true },
  { word: "dialogue", letter: "d", night: "#6FB2F0", ghost: "", height_px: 60, speaks: true },
  { word: "music", letter: "m", night: "#F2B03D", ghost: "#5E4A22", height_px: 100, speaks: false },
  { word: "effects", letter: "e", night: "#A58BC0", ghost: "", height_px: 60, speaks: false },
  { word: "atmosphere", letter: "a", night: "#7FA06A", ghost: "#35452F", height_px: 60, speaks: false },
  { word: "untagged", letter: "u", night: "#7A8797", ghost: "", height_px: 60, speaks: false },
];

/** The tags of talk. */
export const SPEAKS = new Set(TAGS.filter((tag) => tag.speaks).map((tag) => tag.word));

/** How the letters of a file may be written: the word of a command, and what a person reads. */
export const ENCODINGS = [
  { word: "cp1252", says: "Western European (cp1252)" },
  { word: "cp1250", says: "Central European (cp1250)" },
  { word: "cp1251", says: "Cyrillic (cp1251)" },
  { word: "cp1253", says: "Greek (cp1253)" },
  { word: "cp1254", says: "Turkish (cp1254)" },
  { word: "cp1257", says: "Baltic (cp1257)" },
  { word: "cp1255", says: "Hebrew (cp1255)" },
  { word: "cp1256", says: "Arabic (cp1256)" },
  { word: "cp850", says: "Western European, DOS (cp850)" },
  { word: "cp932", says: "Japanese (cp932)" },
  { word: "cp949", says: "Korean (cp949)" },
  { word: "gb18030", says: "Chinese, simplified (gb18030)" },
  { word: "big5", says: "Chinese, traditional (big5)" },
];

/** What a dip can have of its own. */
export const SHAPING = new Set(["amount_db", "wish_lu", "wish_sii", "attack_ms", "release_ms", "lead_in_ms", "hold_ms", "fall", "rise"]);
