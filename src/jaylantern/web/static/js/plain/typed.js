// Pure: what a person typed, in the unit of the field it was typed into. NaN for whatever can't be understood.

const UNITS = { ms: "ms", s: "s", sec: "s", min: "min", f: "frames", fr: "frames", frame: "frames", frames: "frames", db: "dB", "%": "%", dbfs: "dBFS", dbtp: "dBTP", lufs: "LUFS", lu: "LU", sii: "SII", hz: "Hz", khz: "kHz", ":1": ":1" };
const SECONDS = { ms: 0.001, s: 1, min: 60 };
const LEAST_DB = -90; // silence

/** For each unit of a field, the other units it understands: a factor, or a function of the number. */
const READ = {
  dB: { "%": (percent) => (percent > 0 ? Math.max(LEAST_DB, 20 * Math.log10(percent / 100)) : LEAST_DB) },
  "%": { dB: (gain_db) => 100 * 10 ** (gain_db / 20) },
  dBFS: { dB: (level_db) => level_db },
  dBTP: { dB: (level_db) => level_db },
  LU: { dB: (difference) => difference },
  Hz: { kHz: (value) => 1000 * value },
  ":1": {},
  LUFS: {},
  SII: {},
};

/** The number a text begins with and the word behind it; null if it is not built so. */
function parted(text) {
  const found = /^([-+]?(?:\d+\.?\d*|\.\d+))\s*([a-z%]*|:\s*1)$/i.exec(text);
  return found && { value: Number(found[1]), word: found[2].replace(/\s/g, "").toLowerCase() };
}

/** hh:mm:ss:ff, mm:ss:ff with three colons or fewer, m:ss.fraction; in seconds. */
function clockTime(text, frame_s) {
  const found = /^(-?)(\d+(?::\d{1,2}){1,3}|\d+(?::\d{1,2}){2};\d{1,3})(\.\d+)?$/.exec(text);
  if (!found) return NaN;
  const fields = found[2].split(/[:;]/).map(Number);
  const framed = fields.length === 4;
  const frames = framed ? fields.pop() : 0;
  if ((framed && found[3]) || fields.slice(1).some((field) => field > 59)) return NaN;
  if (framed && frames >= Math.ceil(1 / frame_s - 1e-6)) return NaN;
  const whole = fields.reduce((sum, field) => 60 * sum + field, 0);
  const seconds = whole + Number(`0${found[3] ?? ""}`);
  if (framed) return (found[1] ? -1 : 1) * (whole * Math.round(1 / frame_s) + frames) * frame_s;
  return (found[1] ? -1 : 1) * seconds;
}

/**
 * @param {string} text with a comma or a point, a true minus sign or a hyphen, and any unit that can be brought to the field's
 * @param {string} unit of the field; "" takes a bare number
 * @param {number} frame_s length of a frame of the picture
 * @returns {number} in the field's unit, NaN for anything else
 */
export function typed(text, unit = "", frame_s = 1 / 25) {
  const cleaned = text.trim().replace(/[−–]/g, "-").replace(",", ".");
  const timed = unit in SECONDS;
  if (timed && cleaned.includes(":")) return clockTime(cleaned, frame_s) / SECONDS[unit];
  const found = parted(cleaned);
  if (!found) return NaN;
  const { value, word } = found;
  if (!word) return value;
  const meant = UNITS[word];
  if (meant === undefined) return NaN;
  if (meant === unit) return value;
  if (timed) {
    const seconds = meant === "frames" ? value * frame_s : value * (SECONDS[meant] ?? NaN);
    return Number((seconds / SECONDS[unit]).toFixed(6));
  }
  return READ[unit]?.[meant]?.(value) ?? NaN;
}

/** What a field of a unit understands, in words for who typed something else. */
export function understood(unit) {
  if (unit in SECONDS) return `a time, as in 500 ms, 0.5 s, 12 frames or 00:01.5`;
  if (unit === "dB") return "a gain, as in −6 dB or 50 %";
  if (unit === "%") return "a share, as in 50 % or −6 dB";
  return unit ? `a number of ${unit}` : "a bare number";
}
