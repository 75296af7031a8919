// Powers, ratios and apertures as they are written and typed: fractions, stops, per cent, thirds.

const FULL_STOPS = ["1", "1.4", "2", "2.8", "4", "5.6", "8", "11", "16", "22", "32", "45", "64"];
const PARTS = { "⅓": 1 / 3, "⅔": 2 / 3, "½": 1 / 2, "¼": 1 / 4, "¾": 3 / 4 };
const STYLES = ["fractions", "stops", "per cent"];
const KEPT = "fotaxis-power";

/** How powers are written on this machine. */
export const style = () => (STYLES.includes(localStorage.getItem(KEPT) ?? "") ? localStorage.getItem(KEPT) : STYLES[0]);

export function nextStyle() {
  localStorage.setItem(KEPT, STYLES[(STYLES.indexOf(style()) + 1) % STYLES.length]);
  return style();
}

/** @param {{stops: number, name: string}} notch */
export function powerName(notch) {
  if (style() === "stops") return `${notch.stops ? "−" : ""}${Math.abs(notch.stops).toFixed(1)} stops`;
  if (style() === "per cent") {
    const percent = 100 * 2 ** notch.stops;
    return `${percent >= 10 ? Math.round(percent) : percent.toPrecision(2)} %`;
  }
  return notch.name;
}

/** Stops with their sign, in thirds where they are thirds: "+1⅓", "−0.4", "0". */
export function signedStops(stops) {
  const size = Math.abs(stops), whole = Math.floor(size + 0.04), rest = size - whole;
  if (size < 0.04) return "0";
  const part = Math.abs(rest) < 0.04 ? "" : Math.abs(rest - 1 / 3) < 0.04 ? "⅓" : Math.abs(rest - 2 / 3) < 0.04 ? "⅔" : null;
  return `${stops < 0 ? "−" : "+"}${part === null ? size.toFixed(1) : `${whole || !part ? whole : ""}${part}`}`;
}

/** An aperture as a flash meter writes it: "f/8 +0.3". */
export function apertureName(f) {
  if (!(f > 0)) return "no light";
  const tenths = Math.round(20 * Math.log2(f)), whole = Math.floor(tenths / 10), rest = tenths - 10 * whole;
  const name = FULL_STOPS[whole] ?? Number((2 ** (whole / 2)).toPrecision(2));
  return `f/${name}${rest ? ` +0.${rest}` : ""}`;
}

/** Stops as people type them: "+1 1/3", "-0.7", "1⅓", "−2". NaN for what is none. */
export function parseStops(text) {
  const plain = text.trim().replace(/[−–]/g, "-").replace(",", ".").replace(/\s*stops?$/i, "");
  const found = /^([+-]?)\s*(\d*\.?\d*)\s*([⅓⅔½¼¾]|\d+\/\d+)?$/.exec(plain);
  if (!found || (!found[2] && !found[3])) return NaN;
  const [, sign, whole, part] = found;
  const [a, b] = part?.split("/").map(Number) ?? [];
  const extra = part ? PARTS[part] ?? a / b : 0;
  return (sign === "-" ? -1 : 1) * (Number(whole || 0) + extra);
}

/** A power as people type it, in stops from full: "1/16", "1/8 +1/3", "-4", "6 %", "6.3". NaN for what is none. */
export function parsePower(text) {
  const plain = text.trim().replace(/[−–]/g, "-").replace(",", ".");
  const percent = /^(\d+\.?\d*)\s*%$/.exec(plain);
  if (percent) return Math.log2(Number(percent[1]) / 100);
  const fraction = /^1\/(\d+)\s*(.*)$/.exec(plain);
  if (fraction) return -Math.log2(Number(fraction[1])) + (fraction[2] ? parseStops(fraction[2]) : 0);
  if (/^(1|full)$/i.test(plain)) return 0;
  return style() === "per cent" && !plain.startsWith("-") ? Math.log2(Number(plain) / 100) : parseStops(plain);
}
