// A product's surface laid flat, with its zones on it: dragged, sized at their edges, moved by the arrow keys, or dragged over the frame.
import { $ } from "../dom.js";
import { getJson } from "../api.js";
import { hold } from "../grip.js";
import { element } from "./svg.js";

const COARSE_CM = 0.1, FINE_CM = 0.01, NEAR_CM = 0.15, LEAST_CM = 0.1, GAP_CM = 0.6, AGAIN_MS = 500;
const FULL_DEG = 359.9;
const SIDES = ["left", "front", "right", "back", "top", "bottom"];
const round = (value, step) => Math.round(value / step) * step;
const kept = (value) => Math.round(value * 1000) / 1000;

// How zones lie on one surface: centimetres right and down of the drawing's origin, and back to the fields of a zone.
class Round {
  constructor({ widest, foot, top, outline }) {
    this.widest = widest;
    this.outline = outline;
    this.half = Math.PI * widest;
    this.left = -this.half;
    this.up = -top;
    this.width = 2 * this.half;
    this.height = top - foot;
  }

  // Its radius at a height: what a zone's width is measured on.
  radius(height) {
    const { outline } = this;
    for (let i = 1; i < outline.length; i++) {
      const [h0, r0] = outline[i - 1], [h1, r1] = outline[i];
      const within = h1 !== h0 && height >= Math.min(h0, h1) && height <= Math.max(h0, h1);
      if (within && Math.max(r0, r1) > 0) return r0 + ((r1 - r0) * (height - h0)) / (h1 - h0);
    }
    return this.widest;
  }

  of(band) {
    const wide = Math.min(360, band.width_deg) * (Math.PI / 180), x = band.azimuth_deg * (Math.PI / 180) * this.widest;
    return { x, y: -(band.low_cm + band.high_cm) / 2, w: wide * this.widest, h: band.high_cm - band.low_cm };
  }

  copies(box) { return [-this.width, 0, this.width].map((by) => ({ ...box, x: box.x + by })); }

  fields(box, band) {
    const degrees = (cm) => (cm / this.widest) * (180 / Math.PI);
    let azimuth = degrees(box.x);
    azimuth -= 360 * Math.round(azimuth / 360);
    const around = band.width_deg >= FULL_DEG;
    return {
      low_cm: -box.y - box.h / 2, high_cm: -box.y + box.h / 2,
      azimuth_deg: around ? band.azimuth_deg : azimuth, width_deg: Math.min(360, around ? band.width_deg : degrees(box.w)),
    };
  }

  at({ azimuth_deg: azimuth, height_cm: height }) { return { x: azimuth * (Math.PI / 180) * this.widest, y: -height }; }

  words(band) {
    const r = this.radius((band.low_cm + band.high_cm) / 2);
    const wide = band.width_deg >= FULL_DEG ? "all around" : `${(band.width_deg * (Math.PI / 180) * r).toFixed(2)} cm wide`;
    const off = band.azimuth_deg * (Math.PI / 180) * r;
    const side = band.width_deg >= FULL_DEG ? "" : `, its middle ${Math.abs(off).toFixed(2)} cm ${off < 0 ? "left" : "right"} of the front`;
    return `${wide}, ${(band.high_cm - band.low_cm).toFixed(2)} cm high, ${band.low_cm.toFixed(2)} cm above the foot${side}`;
  }

  draw() {
    /** @type {[number, string][]} */
    const marks = [[-180, "back"], [-90, "left"], [0, "front"], [90, "right"]];
    return [
      { kind: "rect", x: this.left, y: this.up, w: this.width, h: this.height },
      ...marks.map(([degrees, words]) => ({ kind: "line", x: degrees * (Math.PI / 180) * this.widest, y: this.up, h: this.height, words })),
    ];
  }
}

class Boxed {
  constructor({ width, height, depth }) {
    const aside = width / 2 + GAP_CM + depth / 2;
    this.faces = {
      front: { x: 0, y: 0, w: width, h: height, turned: false, middle: 0 },
      right: { x: aside, y: 0, w: depth, h: height, turned: true, middle: 0 },
      left: { x: -aside, y: 0, w: depth, h: height, turned: false, middle: 0 },
      back: { x: aside + depth / 2 + GAP_CM + width / 2, y: 0, w: width, h: height, turned: true, middle: 0 },
      top: { x: 0, y: -(height / 2 + GAP_CM + depth / 2), w: width, h: depth, turned: false, middle: 1 },
      bottom: { x: 0, y: height / 2 + GAP_CM + depth / 2, w: width, h: depth, turned: false, middle: -1 },
    };
    this.left = -aside - depth / 2;
    this.width = this.faces.back.x + width / 2 - this.left;
    this.up = -(height / 2 + GAP_CM + depth);
    this.height = -2 * this.up;
  }

  of(band) {
    const face = this.faces[band.face || "front"], up = (band.low_cm + band.high_cm) / 2;
    return {
      x: face.x + (face.turned ? -band.centre_cm : band.centre_cm), y: face.middle ? face.y + face.middle * up : face.y + face.h / 2 - up,
      w: band.width_cm, h: band.high_cm - band.low_cm,
    };
  }

  copies(box) { return [box]; }

  // The side a place lies on; the nearest where it lies on none.
  face(x, y) {
    const far = ({ x: fx, y: fy, w, h }) => Math.max(Math.abs(x - fx) - w / 2, Math.abs(y - fy) - h / 2);
    return SIDES.reduce((best, name) => (far(this.faces[name]) < far(this.faces[best]) ? name : best));
  }

  fields(box) {
    const name = this.face(box.x, box.y), face = this.faces[name];
    const up = face.middle ? face.middle * (box.y - face.y) : face.y + face.h / 2 - box.y;
    return { face: name, centre_cm: (face.turned ? -1 : 1) * (box.x - face.x), width_cm: box.w, low_cm: up - box.h / 2, high_cm: up + box.h / 2 };
  }

  at({ face, across_cm: across, up_cm: up }) {
    return this.of({ face, centre_cm: across, low_cm: up, high_cm: up, width_cm: 0 });
  }

  words(band) {
    const middle = this.faces[band.face || "front"].middle;
    return `${band.width_cm.toFixed(2)} cm wide, ${(band.high_cm - band.low_cm).toFixed(2)} cm high, on the ${band.face}, ${band.low_cm.toFixed(2)} cm ${
      middle ? "in front of its middle" : "above the foot"}, ${Math.abs(band.centre_cm).toFixed(2)} cm ${band.centre_cm < 0 ? "left" : "right"} of the middle`;
  }

  draw() {
    return SIDES.map((name) => {
      const { x, y, w, h } = this.faces[name];
      return { kind: "rect", x: x - w / 2, y: y - h / 2, w, h, words: name };
    });
  }
}

export class Unrolled {
  #timer = 0;
  /** @type {any} */ svg = null;
  /** @type {any} */ words = null;
  /** @type {any} */ lies = null;
  key = "product";
  path = "subject";

  constructor(bench) {
    this.bench = bench;
    this.store = bench.store;
    this.chosen = 0;
    this.frameHeld = (event) => this.grabOnFrame(event);
  }

  // surface: as the server tells it; path: of the product in the shot.
  show(svg, words, surface, { key, path }) {
    this.svg = svg;
    this.words = words;
    this.key = key;
    this.path = path;
    this.lies = surface.kind === "box" ? new Boxed(surface) : new Round(surface);
    this.draw();
  }

  get bands() {
    const { document } = this.store;
    return (this.key === "product" ? document.subject : document.others.find((one) => one.key === this.key))?.bands ?? [];
  }

  draw() {
    const { svg, lies } = this;
    if (!svg?.isConnected || !svg.clientWidth) return;
    const { clientWidth: width, clientHeight: height } = svg;
    this.scale = Math.min((width - 12) / lies.width, (height - 12) / lies.height);
    this.ox = (width - lies.width * this.scale) / 2 - lies.left * this.scale;
    this.oy = (height - lies.height * this.scale) / 2 - lies.up * this.scale;
    svg.setAttribute("viewBox", `0 0 ${width} ${height}`);
    const inside = element("clipPath", { id: "unrolled-inside" });
    const ground = lies.draw().flatMap((part) => this.ground(part, inside));
    const zones = element("g", { "clip-path": "url(#unrolled-inside)" });
    const focused = svg.contains(document.activeElement);
    this.bands.forEach((band, number) => zones.append(this.zone(band, number)));
    svg.replaceChildren(inside, ...ground, zones, ...this.handles());
    if (focused) svg.querySelector(`[data-zone="${this.chosen}"]`)?.focus({ preventScroll: true });
    const band = this.bands[this.chosen];
    this.words.textContent = band ? `${band.name}: ${lies.words(band)}` : "No zones yet. Add one below, or choose a label's picture.";
  }

  ground(part, inside) {
    const x = this.ox + part.x * this.scale, y = this.oy + part.y * this.scale, h = part.h * this.scale;
    const words = element("text", { x: x + 3, y: y + 11 }, part.words ?? "");
    if (part.kind === "line") return [element("line", { x1: x, y1: y, x2: x, y2: y + h, class: "grid-line" }), words];
    const shape = { x, y, width: part.w * this.scale, height: h };
    inside.append(element("rect", shape));
    return [element("rect", { ...shape, class: "unrolled-face" }), words];
  }

  box(placed) {
    const { scale, ox, oy } = this, { x, y, w, h } = placed;
    return { x: ox + (x - w / 2) * scale, y: oy + (y - h / 2) * scale, width: w * scale, height: h * scale };
  }

  zone(band, number) {
    const { lies } = this, group = element("g", {
      class: number === this.chosen ? "zone selected" : "zone", tabindex: "0", role: "button", "data-zone": String(number),
      "aria-label": `${band.name}, ${lies.words(band)}`, "aria-pressed": String(number === this.chosen),
    });
    for (const placed of lies.copies(lies.of(band))) {
      const at = this.box(placed);
      if (band.artwork) {
        const asked = new URLSearchParams({ key: this.key, band: String(number), part: "picture", v: band.artwork.picture });
        group.append(element("rect", { ...at, class: "paper" }));
        group.append(element("image", { ...at, href: `${this.store.addresses["artwork.png"]}?${asked}`, preserveAspectRatio: "none" }));
      }
      const round_ = band.ellipse ? { rx: at.width / 2, ry: at.height / 2 } : {};
      group.append(element("rect", { ...at, ...round_ }));
      if (!band.artwork && this.holds(placed)) group.append(element("text", { x: at.x + at.width / 2, y: at.y + at.height / 2 + 4, class: "zone-name" }, band.name));
    }
    group.addEventListener("pointerdown", (event) => this.grab(event, group, number, "move"));
    group.addEventListener("keydown", (event) => this.keyed(event, number));
    return group;
  }

  // Whether a box's middle is on the surface: of what is drawn twice, across the back, one bears the name.
  holds({ x, y }) {
    const { lies } = this;
    return x >= lies.left && x < lies.left + lies.width && y >= lies.up && y <= lies.up + lies.height;
  }

  handles() {
    const band = this.bands[this.chosen];
    if (!band) return [];
    const { x, y, width, height } = this.box(this.lies.of(band));
    const across = x + width / 2, down = y + height / 2, right = x + width, low = y + height;
    const places = { w: [x, down], e: [right, down], n: [across, y], s: [across, low], se: [right, low] };
    return Object.entries(places).map(([side, [cx, cy]]) => {
      const handle = element("circle", { cx, cy, r: 5, class: `zone-handle handle-${side}`, "data-side": side });
      handle.addEventListener("pointerdown", (event) => this.grab(event, handle, this.chosen, side));
      return handle;
    });
  }

  choose(number) {
    this.chosen = number;
    this.draw();
  }

  // What a box becomes when one side of it, or all of it, is moved by so much; the corner keeps its shape.
  changed(from, side, dx, dy, step) {
    const box = { ...from };
    if (side === "move") {
      box.x = round(from.x + dx, step);
      box.y = round(from.y + dy, step);
      if (step === COARSE_CM && Math.abs(box.x) < NEAR_CM) box.x = 0;
      return box;
    }
    if (side === "se") {
      const w = Math.max(LEAST_CM, round(from.w + dx, step)), h = (w * from.h) / from.w;
      return { w, h, x: from.x + (w - from.w) / 2, y: from.y + (h - from.h) / 2 };
    }
    const sign = side === "w" || side === "n" ? -1 : 1;
    if (side === "w" || side === "e") {
      box.w = Math.max(LEAST_CM, round(from.w + sign * dx, step));
      box.x = from.x + (sign * (box.w - from.w)) / 2;
    } else {
      box.h = Math.max(LEAST_CM, round(from.h + sign * dy, step));
      box.y = from.y + (sign * (box.h - from.h)) / 2;
    }
    return box;
  }

  changes(number, box) {
    const band = this.bands[number], path = [...this.path.split("."), "bands", String(number)];
    return Object.entries(this.lies.fields(box, band)).filter(([name, value]) => band[name] !== value).map(([name, value]) => ({
      path: [...path, name], value: typeof value === "number" ? kept(value) : value,
    }));
  }

  put(number, box) {
    const changes = this.changes(number, box);
    for (const { path, value } of changes) this.bands[number][path.at(-1)] = value;
    this.draw();
    this.store.drag(true);
    this.bench.frame.preview(changes);
    return changes;
  }

  done(number, changes, wasKept) {
    if (wasKept && changes?.length) this.store.commit(changes, `${this.bands[number].name} placed`);
    else this.store.refresh();
    this.store.drag(false);
  }

  grab(event, part, number, side) {
    if (event.button !== 0) return;
    const from = this.lies.of(this.bands[number]), { scale } = this;
    let changes;
    hold(this.svg, event, {
      move: (dx, dy, now) => { changes = this.put(number, this.changed(from, side, dx / scale, dy / scale, now.altKey ? FINE_CM : COARSE_CM)); },
      done: (moved, wasKept) => {
        if (moved) this.done(number, changes, wasKept);
        else { this.choose(number); this.svg.querySelector(`[data-zone="${number}"]`)?.focus(); }
      },
    });
    if (number !== this.chosen) this.choose(number);
  }

  // Arrows move by a millimetre, with Alt by a tenth; with Shift they size it.
  keyed(event, number) {
    const way = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[event.key];
    if (event.key === "Enter" || event.key === " ") this.choose(number);
    else if (!way) return;
    event.preventDefault();
    event.stopPropagation();
    if (!way) return;
    this.chosen = number;
    const by = event.altKey ? FINE_CM : COARSE_CM, from = this.lies.of(this.bands[number]);
    const box = event.shiftKey
      ? { ...from, w: Math.max(LEAST_CM, from.w + way[0] * by), h: Math.max(LEAST_CM, from.h - way[1] * by) }
      : { ...from, x: from.x + way[0] * by, y: from.y + way[1] * by };
    this.put(number, box);
    clearTimeout(this.#timer);
    const all = Object.keys(this.lies.fields(box, this.bands[number]));
    this.#timer = window.setTimeout(() => {
      const band = this.bands[number], path = [...this.path.split("."), "bands", String(number)];
      this.done(number, all.map((name) => ({ path: [...path, name], value: band[name] })), true);
    }, AGAIN_MS);
  }

  // ---- over the frame: the zone goes with the pointer, where the pointer is on the product

  onFrame(number, button) {
    const before = this.overFrame;
    this.leaveFrame();
    if (before === button) return;
    this.choose(number);
    this.overFrame = button;
    button.setAttribute("aria-pressed", "true");
    document.body.classList.add("placing-zone");
    $("frame").addEventListener("pointerdown", this.frameHeld, { capture: true });
    this.store.note(`Drag ${this.bands[number].name} over the frame. Escape leaves this.`);
  }

  leaveFrame() {
    this.overFrame?.setAttribute("aria-pressed", "false");
    this.overFrame = null;
    document.body.classList.remove("placing-zone");
    $("frame").removeEventListener("pointerdown", this.frameHeld, { capture: true });
  }

  grabOnFrame(event) {
    const frame = $("frame"), rect = frame.getBoundingClientRect(), number = this.chosen, band = this.bands[number];
    if (!band || event.button !== 0) return;
    event.stopImmediatePropagation();
    const from = this.lies.of(band), first = this.onBody(event, rect);
    let changes, wanted = null;
    /** @type {Promise<void> | null} */ let asking = null;
    const follow = async () => {
      while (wanted) {
        const now = wanted;
        wanted = null;
        const [start, at] = await Promise.all([first, this.onBody(now, rect)]);
        if (!start || !at) continue;
        const box = this.changed(from, "move", at.x - start.x, at.y - start.y, now.altKey ? FINE_CM : COARSE_CM);
        changes = this.put(number, box);
      }
      asking = null;
    };
    hold(frame, event, {
      move: (_dx, _dy, now) => { wanted = now; asking ??= follow(); },
      done: async (moved, wasKept) => { await asking; if (moved) this.done(number, changes, wasKept); },
    });
  }

  async onBody({ clientX, clientY }, rect) {
    const within = (value) => Math.max(0, Math.min(1, value)).toFixed(5);
    const x = within((clientX - rect.left) / rect.width), y = within((clientY - rect.top) / rect.height);
    const asked = new URLSearchParams({ x, y, key: this.key });
    try {
      const at = await getJson(`${this.store.addresses["on-body"]}?${asked}`);
      return "face" in at ? this.lies.at(at) : null;
    } catch { return null; }
  }
}
