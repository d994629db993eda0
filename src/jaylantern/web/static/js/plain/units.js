// Pure: numbers as the person reads them. Times are samples at 48 kHz.

export const RATE = 48000;

/** mm:ss.mmm, with hours from one hour on. @param {number} time_n */
export function clock(time_n, decimals = 3) {
  const ticks = Math.round((Math.max(0, time_n) * 10 ** decimals) / RATE);
  const fraction = ticks % 10 ** decimals;
  const whole = Math.floor(ticks / 10 ** decimals);
  const two = (value) => String(value).padStart(2, "0");
  const hours = Math.floor(whole / 3600);
  const text = `${hours ? `${hours}:` : ""}${two(Math.floor((whole % 3600) / 60))}:${two(whole % 60)}`;
  return decimals ? `${text}.${String(fraction).padStart(decimals, "0")}` : text;
}

/** A figure with a true minus sign. */
export function figure(value, decimals = 0) {
  return value.toFixed(decimals).replace("-", "−");
}

export const amplitude = (gain_db) => 10 ** (gain_db / 20);
