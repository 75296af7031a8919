// Draws what a calculation says beside its numbers: a scale of stops, a curve, a view to scale. What is drawn comes as plain data.
const NS = "http://www.w3.org/2000/svg";
const WIDE = 420, HIGH = 220, EDGE = 34, SMALL = 13;

function make(tag, attributes = {}, text = "") {
  const element = document.createElementNS(NS, tag);
  for (const [key, value] of Object.entries(attributes)) element.setAttribute(key, typeof value === "number" ? String(Math.round(value * 100) / 100) : value);
  if (text) element.textContent = text;
  return element;
}

const label = (svg, x, y, text, more = {}) => svg.append(make("text", { x, y, "font-size": SMALL, ...more }, text));

/** @param {any} picture @returns {SVGElement} */
export function drawn(picture) {
  const svg = make("svg", { viewBox: `0 0 ${WIDE} ${HIGH}`, role: "img", "aria-label": picture.words });
  ({ scale, curve, view })[picture.kind](svg, picture);
  return /** @type {SVGElement} */ (svg);
}

function scale(svg, { low, high, marks, bars }) {
  const at = (value) => EDGE + ((value - low) / (high - low)) * (WIDE - 2 * EDGE), y = HIGH * 0.62;
  svg.append(make("line", { x1: EDGE, x2: WIDE - EDGE, y1: y, y2: y, class: "axis" }));
  const span = high - low, step = span <= 14 ? 1 : span <= 40 ? 5 : span <= 120 ? 20 : 100;
  for (let value = Math.ceil(low / step) * step; value <= high; value += step) {
    svg.append(make("line", { x1: at(value), x2: at(value), y1: y - 5, y2: y + 5, class: "axis" }));
    label(svg, at(value), y + 22, `${value}`.replace("-", "−"), { "text-anchor": "middle", class: "soft" });
  }
  bars.forEach((bar, i) => {
    const a = at(bar.from), b = at(bar.to), lane = y + 40 + 17 * (i % 3);
    svg.append(make("line", { x1: a, x2: b, y1: lane, y2: lane, class: "bar" }));
    svg.append(make("circle", { cx: b, cy: lane, r: 3.5, class: "dot" }));
    if (bar.words) label(svg, ...beside(Math.min(a, b), Math.max(a, b), lane, bar.words));
  });
  const sorted = [...marks].sort((a, b) => a.at - b.at);
  sorted.forEach((mark, i) => {
    const x = at(mark.at), lane = y - 22 - 26 * (i % 3);
    svg.append(make("line", { x1: x, x2: x, y1: lane + 5, y2: y, class: mark.strong ? "strong" : "soft-line" }));
    const anchor = x < WIDE * 0.25 ? "start" : x > WIDE * 0.75 ? "end" : "middle";
    label(svg, x, lane, mark.words, { "text-anchor": anchor, class: mark.strong ? "strong-text" : "" });
  });
}

/** Where words beside a bar go: on the side that has room. @returns {[number, number, string, any]} */
function beside(left, right, y, words) {
  const room = WIDE - right - 8, wanted = words.length * 6.6;
  return room >= wanted ? [right + 8, y + 4, words, {}] : [left - 8, y + 4, words, { "text-anchor": "end" }];
}

function nice(low, high) {
  const rough = (high - low) / 4, power = 10 ** Math.floor(Math.log10(rough || 1));
  const step = [1, 2, 2.5, 5, 10].find((one) => one * power >= rough) * power, ticks = [];
  for (let value = Math.ceil(low / step - 1e-9) * step; value <= high + 1e-9 * Math.abs(high); value += step) {
    ticks.push(Math.abs(value) < step / 1e6 ? 0 : Number(value.toPrecision(10)));
  }
  return ticks;
}

function curve(svg, { lines, x, y, at, across }) {
  const points = lines.flatMap((one) => one.points), xs = points.map((p) => p[0]);
  const ys = [...points.map((p) => p[1]), ...across.map((one) => one.y), ...at.map((one) => one.y)];
  const [left, right] = [Math.min(...xs), Math.max(...xs)];
  const low = Math.min(...ys), top = Math.max(...ys), pad = (top - low || 1) * 0.08, span = { low: low - pad, high: top + pad };
  const px = (value) => EDGE + 10 + ((value - left) / (right - left || 1)) * (WIDE - 2 * EDGE - 10);
  const py = (value) => HIGH - EDGE - ((value - span.low) / (span.high - span.low)) * (HIGH - EDGE - 26);
  for (const value of nice(left, right)) label(svg, px(value), HIGH - EDGE + 17, `${value}`.replace("-", "−"), { "text-anchor": "middle", class: "soft" });
  for (const value of nice(span.low, span.high)) {
    svg.append(make("line", { x1: px(left), x2: px(right), y1: py(value), y2: py(value), class: "grid" }));
    label(svg, px(left) - 6, py(value) + 4, `${value}`.replace("-", "−"), { "text-anchor": "end", class: "soft" });
  }
  label(svg, WIDE - EDGE, HIGH - 3, x, { "text-anchor": "end" });
  label(svg, 4, 13, y);
  for (const one of across) {
    svg.append(make("line", { x1: px(left), x2: px(right), y1: py(one.y), y2: py(one.y), class: "soft-line" }));
    label(svg, px(right), py(one.y) - 4, one.words, { "text-anchor": "end", class: "soft" });
  }
  lines.forEach((one, i) => {
    const way = one.points.map((p) => `${px(p[0]).toFixed(1)},${py(p[1]).toFixed(1)}`).join(" ");
    svg.append(make("polyline", { points: way, class: i ? "line other" : "line" }));
    if (one.words) {
      const highest = one.points.reduce((best, p) => (p[1] > best[1] ? p : best));
      label(svg, px(highest[0]), py(highest[1]) - 6, one.words, { "text-anchor": "middle", class: "soft" });
    }
  });
  for (const one of at) {
    svg.append(make("circle", { cx: px(one.x), cy: py(one.y), r: 5, class: "dot" }));
    label(svg, px(one.x), py(one.y) - 10, one.words, { "text-anchor": px(one.x) > WIDE * 0.7 ? "end" : px(one.x) < WIDE * 0.3 ? "start" : "middle", class: "strong-text" });
  }
}

const corners = (part) => ({
  line: () => [[part.x1, part.y1], [part.x2, part.y2]],
  shape: () => part.points,
  round: () => [[part.x - part.r, part.y - part.r], [part.x + part.r, part.y + part.r]],
})[part.kind]();

function view(svg, { parts }) {
  const all = parts.flatMap(corners), xs = all.map((p) => p[0]), ys = all.map((p) => p[1]);
  const left = Math.min(...xs), right = Math.max(...xs), low = Math.min(...ys), top = Math.max(...ys);
  const per = Math.min((WIDE - 2 * EDGE) / (right - left || 1), (HIGH - 2 * EDGE) / (top - low || 1));
  const px = (x) => WIDE / 2 + (x - (left + right) / 2) * per, py = (y) => HIGH / 2 - (y - (low + top) / 2) * per;
  const taken = [];
  for (const part of parts) {
    const look = `view-${part.style || "plain"}`;
    if (part.kind === "line") svg.append(make("line", { x1: px(part.x1), y1: py(part.y1), x2: px(part.x2), y2: py(part.y2), class: look }));
    else if (part.kind === "round") svg.append(make("circle", { cx: px(part.x), cy: py(part.y), r: Math.max(3, part.r * per), class: look }));
    else svg.append(make("polygon", { points: part.points.map((p) => `${px(p[0]).toFixed(1)},${py(p[1]).toFixed(1)}`).join(" "), class: look }));
  }
  for (const part of parts) if (part.words) name(svg, part, corners(part).map((p) => [px(p[0]), py(p[1])]), taken);
}

/** A name where it is free: over what it names, under it, then further over or under. */
function name(svg, part, places, taken) {
  const xs = places.map((p) => p[0]), ys = places.map((p) => p[1]), wide = part.words.length * 6.9;
  const x = Math.min(Math.max((Math.min(...xs) + Math.max(...xs)) / 2, wide / 2 + 2), WIDE - wide / 2 - 2);
  const over = Math.min(...ys) - 6, under = Math.max(...ys) + 15;
  const free = (y) => y > 11 && y < HIGH - 2 && !taken.some((one) => Math.abs(one.y - y) < 14 && Math.abs(one.x - x) < (one.wide + wide) / 2 + 4);
  const y = [over, under, over - 15, under + 15, over - 30, under + 30].find(free) ?? Math.min(Math.max(over, 12), HIGH - 3);
  taken.push({ x, y, wide });
  label(svg, x, y, part.words, { "text-anchor": "middle" });
}
