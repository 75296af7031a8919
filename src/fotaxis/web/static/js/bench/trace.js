// The trace under the frame: brightness along the reading line in stops from middle grey.
import { all, query } from "../dom.js";
import { element } from "./svg.js";

const TOP = 3, BOTTOM = -9, GREY = 0.18;
const LOW_PX = 90; // less has no room for six figures
const LEFT = 34, RIGHT = 6, ABOVE = 6, BELOW = 4;

// The ruled paper of one size: made once, the curve and the product's edges drawn on it again and again.
function paper(svg, width, height, y) {
  const parts = [];
  for (const stops of height < LOW_PX ? [2, -1, -4, -7] : [2, 0, -2, -4, -6, -8]) {
    parts.push(element("line", { class: "grid", x1: LEFT, x2: width - RIGHT, y1: y(stops), y2: y(stops) }));
    const name = stops > 0 ? `+${stops}` : stops < 0 ? `−${-stops}` : "grey";
    parts.push(element("text", { x: LEFT - 5, y: y(stops) + 3.5, "text-anchor": "end" }, name));
  }
  const clip = Math.log2(1 / GREY);
  parts.push(element("line", { class: "clip", x1: LEFT, x2: width - RIGHT, y1: y(clip), y2: y(clip) }));
  parts.push(element("text", { x: width - RIGHT, y: y(clip) - 2 + 11, "text-anchor": "end" }, "255"));
  parts.push(element("text", { x: LEFT + 4, y: y(-7) + 3.5 }, "stops from grey"));
  parts.push(element("line", { class: "floor", x1: LEFT, x2: width - RIGHT }), element("text", { class: "floor", x: width - RIGHT, "text-anchor": "end" }, "noise"));
  parts.push(element("path", { class: "edge" }), element("path", { class: "level" }));
  svg.replaceChildren(...parts);
  svg.dataset.size = `${width} ${height}`;
}

// line: {perLayer or mixed, edges, words}; gains: factor of every layer in order; floor: the noise in stops from grey.
export function drawTrace(svg, words, line, gains, floor) {
  const width = svg.clientWidth || 470, height = svg.clientHeight || 102;
  const y = (stops) => ABOVE + ((TOP - Math.max(BOTTOM, Math.min(TOP, stops))) / (TOP - BOTTOM)) * (height - ABOVE - BELOW);
  const x = (part) => LEFT + part * (width - LEFT - RIGHT);
  if (svg.dataset.size !== `${width} ${height}`) paper(svg, width, height, y);
  for (const part of all(".floor", svg)) {
    part.setAttribute("visibility", floor > BOTTOM ? "visible" : "hidden");
    for (const side of part.tagName === "line" ? ["y1", "y2"] : ["y"]) part.setAttribute(side, y(floor) - (side === "y" ? 2 : 0));
  }
  const parts = line.perLayer ?? [line.mixed ?? []];
  const weights = line.perLayer ? gains : [1];
  const count = parts[0].length;
  let path = "";
  for (let i = 0; i < count; i++) {
    let level = 0;
    for (let n = 0; n < parts.length; n++) level += parts[n][i] * weights[n];
    path += `${i ? "L" : "M"}${x(i / (count - 1)).toFixed(1)} ${y(Math.log2(Math.max(level, 1e-9) / GREY)).toFixed(1)}`;
  }
  query(".level", svg).setAttribute("d", path);
  const edges = (line.edges ?? []).map((edge) => `M${x(edge).toFixed(1)} ${ABOVE}V${height - BELOW}`).join("");
  query(".edge", svg).setAttribute("d", edges);
  const text = line.words.join(" · ");
  if (words.textContent !== text) words.textContent = text;
}
