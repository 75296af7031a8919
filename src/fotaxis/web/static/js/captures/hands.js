// Hands on the composite: a brush and a gradient for the chosen capture's mask, marks to retouch, the crop that is wanted.
import { $, all } from "../dom.js";
import { hold } from "../grip.js";

const TOOLS = ["brush", "gradient", "spot-tool"];
const MOST_POINTS = 380, LEAST_STEP = 0.004;
const SVG = "http://www.w3.org/2000/svg";

export class Hands {
  constructor(page) {
    this.page = page;
    this.tool = "";
    for (const name of TOOLS) $(name).addEventListener("click", () => this.turn(this.tool === name ? "" : name));
    $("show-mask").addEventListener("click", () => this.mask($("show-mask").getAttribute("aria-pressed") !== "true"));
    $("show-one").addEventListener("click", () => this.one());
    $("composite-over").addEventListener("pointerdown", (event) => this.down(event));
    addEventListener("resize", () => this.draw());
  }

  turn(tool) {
    this.tool = tool && !this.page.chosen && tool !== "spot-tool" ? "" : tool;
    for (const name of TOOLS) $(name).setAttribute("aria-pressed", String(name === this.tool));
    for (const one of all(".brush-size")) one.hidden = this.tool !== "brush";
    $("composite-over").classList.toggle("drawing-on", Boolean(this.tool));
  }

  mask(on) {
    $("show-mask").setAttribute("aria-pressed", String(on));
    this.draw();
  }

  one() {
    const { composite } = this.page;
    composite.alone = !composite.alone;
    $("show-one").setAttribute("aria-pressed", String(composite.alone));
    composite.show();
  }

  /** Parts of the picture under the pointer. */
  at(event) {
    const box = $("composite").getBoundingClientRect();
    return [(event.clientX - box.left) / box.width, (event.clientY - box.top) / box.height].map((part) => Math.round(part * 10000) / 10000);
  }

  down(event) {
    const { page } = this;
    if (!this.tool || event.button !== 0) return;
    const from = this.at(event), over = $("composite-over");
    if (this.tool === "spot-tool") {
      let number = page.state.retouch.length + 1;
      while (page.state.retouch.some(({ key }) => key === `spot-${number}`)) number += 1;
      page.commit([{ kind: "add", path: ["retouch"], value: { key: `spot-${number}`, what: "dust", x: from[0], y: from[1] } }], "Marked a place to retouch");
      page.turnTo("retouch");
      return;
    }
    const how = event.altKey ? "take" : "add", points = [from];
    const part = () => (this.tool === "brush"
      ? { kind: "brush", how, points: thinned(points), radius: Number($("brush-size").value), feather_mm: 0 }
      : { kind: "gradient", how, begin: from, end: points.at(-1), feather_mm: 0 });
    const drawn = () => [...page.chosen.mask, part()];
    const ready = () => this.tool === "brush" || points.length > 1;
    hold(over, event, {
      least: 0,
      move: (_dx, _dy, now) => {
        const next = this.at(now), last = points.at(-1);
        if (Math.hypot(next[0] - last[0], next[1] - last[1]) < LEAST_STEP) return;
        if (this.tool === "gradient" && points.length > 1) points[1] = next; else points.push(next);
        this.draw(this.tool === "brush" ? points : [from, next]);
        page.composite.preview([{ path: ["captures", page.key, "mask"], value: drawn() }]);
      },
      done: (_moved, kept) => {
        if (kept && ready()) page.set({ mask: drawn() }, this.tool === "brush" ? "Painted the mask" : "Gradient on the mask");
        else this.draw();
      },
    });
  }

  /** Everything over the composite: mask, crop, marks, a stroke under way. */
  draw(stroke = null) {
    const over = $("composite-over"), picture = $("composite"), { page } = this;
    fit(picture, $("composite-box"));
    const box = picture.getBoundingClientRect(), outer = $("composite-box").getBoundingClientRect();
    for (const one of [over, $("mask-picture")]) {
      Object.assign(one.style, { left: `${box.left - outer.left}px`, top: `${box.top - outer.top}px`, width: `${box.width}px`, height: `${box.height}px` });
    }
    const showing = $("show-mask").getAttribute("aria-pressed") === "true" && page.chosen;
    const mask = $("mask-picture");
    mask.hidden = !showing;
    if (showing) mask.src = `${page.addresses.mask}?key=${page.key}&v=${page.state.revision}`;
    over.setAttribute("viewBox", `0 0 ${box.width || 1} ${box.height || 1}`);
    over.replaceChildren();
    const put = (name, attributes, words = "") => {
      const made = document.createElementNS(SVG, name);
      for (const [key, value] of Object.entries(attributes)) made.setAttribute(key, String(value));
      made.textContent = words;
      over.append(made);
    };
    const crop = page.state.crops[Number($("crop").value || -1)];
    if ($("crop").value !== "" && crop) {
      const { left, top, wide, high } = crop;
      put("path", { class: "cropped", "fill-rule": "evenodd", d: `M0 0H${box.width}V${box.height}H0Z M${left * box.width} ${top * box.height}h${wide * box.width}v${high * box.height}h${-wide * box.width}Z` });
    }
    for (const [i, one] of page.state.retouch.entries()) {
      if (one.done) continue;
      put("circle", { class: "mark", cx: one.x * box.width, cy: one.y * box.height, r: 9 });
      put("text", { class: "mark", x: one.x * box.width + 12, y: one.y * box.height + 4 }, String(i + 1));
    }
    if (stroke) {
      const size = this.tool === "brush" ? 2 * Number($("brush-size").value) * box.width : 2;
      put("polyline", { class: "stroke", "stroke-width": size, points: stroke.map(([x, y]) => `${x * box.width},${y * box.height}`).join(" ") });
    }
  }
}

/** A picture as large as its box, whatever its own size: a quick one stands where the fine one will. */
function fit(picture, box) {
  const { naturalWidth: wide, naturalHeight: high } = picture;
  if (!wide || picture.hidden) return;
  const scale = Math.min(box.clientWidth / wide, box.clientHeight / high);
  Object.assign(picture.style, { width: `${wide * scale}px`, height: `${high * scale}px` });
}

/** No more places than a stroke may have. */
function thinned(points) {
  if (points.length <= MOST_POINTS) return points;
  const step = points.length / MOST_POINTS;
  return Array.from({ length: MOST_POINTS }, (_, i) => points[Math.floor(i * step)]);
}
