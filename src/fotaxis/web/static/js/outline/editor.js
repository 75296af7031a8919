// A product cut along its axis: measured points, wall, floor and level are dragged; over a photograph, the points and both ends of the axis.
import { element } from "../bench/svg.js";
import { hold } from "../grip.js";

const STEP_CM = 0.05, FINE_CM = 0.01, LEAST_WALL_MM = 0.3;
const round = (value, step = FINE_CM) => Math.round(value / step) * step;
const kept = (value) => Math.round(value * 1000) / 1000;

export class OutlineEditor {
  #rests = 0;
  /** @type {number[][]} heights and diameters, cm */ points = [];
  /** @type {number[][]} heights and radii of the smooth line, cm */ smooth = [];
  /** @type {number[][][]} */ inside = [];
  /** @type {any} */ glass = null;
  /** @type {number | null} */ level = null;
  /** @type {any} */ photo = null;

  /**
   * @param {SVGSVGElement} svg
   * @param {{dragged?: (what: string, value: any) => void, dropped?: (what: string, value: any, kept: boolean) => void, words?: (words: string) => void}} told
   *   what: "profile" with [height, diameter] pairs, "floor" and "level" in centimetres, "wall" in millimetres
   */
  constructor(svg, told) {
    this.svg = svg;
    this.told = told;
    svg.addEventListener("dblclick", (event) => this.addPoint(event));
  }

  // points: [height, diameter] in cm; smooth and inside: [height, radius] lines; photo: {url, foot, top, size} as parts of the picture.
  show({ points, smooth = [], inside = [], glass = null, level = null, photo = null }) {
    this.points = points.map(([h, d]) => [h, d]);
    this.smooth = smooth;
    this.inside = inside;
    this.glass = glass;
    this.level = level;
    this.photo = photo && structuredClone(photo);
    this.high = Math.max(...points.map(([h]) => h));
    this.draw();
  }

  // Where a height and a radius lie in the drawing, and back.
  layOut() {
    const { clientWidth: width, clientHeight: height } = this.svg;
    const low = Math.min(0, ...this.points.map(([h]) => h)), widest = Math.max(...this.points.map(([, d]) => d));
    if (this.photo) {
      const [w, h] = this.photo.size, s = Math.min(width / w, height / h);
      const left = (width - w * s) / 2, top = (height - h * s) / 2;
      this.picture = { x: left, y: top, width: w * s, height: h * s };
      const at = ([x, y]) => [left + x * w * s, top + y * h * s];
      this.foot = at(this.photo.foot);
      const [tx, ty] = at(this.photo.top);
      this.axis = [(tx - this.foot[0]) / this.high, (ty - this.foot[1]) / this.high];
    } else {
      const s = Math.min((width - 40) / widest, (height - 24) / (this.high - low));
      this.foot = [width / 2, height - 12 + low * s];
      this.axis = [0, -s];
    }
    this.scale = Math.hypot(...this.axis);
    this.svg.setAttribute("viewBox", `0 0 ${width} ${height}`);
  }

  at(h, r) { return [this.foot[0] + this.axis[0] * h - this.axis[1] * r, this.foot[1] + this.axis[1] * h + this.axis[0] * r]; }

  way(dx, dy) {
    const s2 = this.scale ** 2;
    return { h: (dx * this.axis[0] + dy * this.axis[1]) / s2, r: (-dx * this.axis[1] + dy * this.axis[0]) / s2 };
  }

  // Of a closed or open line of heights and radii, both its sides.
  line(pairs, attributes) {
    return [1, -1].map((side) => element("polyline", { ...attributes, points: pairs.map(([h, r]) => this.at(h, side * r).map((v) => v.toFixed(1)).join(",")).join(" ") }));
  }

  draw() {
    const { svg } = this;
    if (!svg.isConnected || !svg.clientWidth || !this.points?.length) return;
    this.layOut();
    const focused = svg.contains(document.activeElement) ? /** @type {any} */ (document.activeElement).dataset.grip : "";
    const raw = this.points.map(([h, d]) => [h, d / 2]);
    const parts = [];
    if (this.photo) parts.push(element("image", { ...this.picture, href: this.photo.url, preserveAspectRatio: "none" }));
    const [x1, y1] = this.at(0, 0), [x2, y2] = this.at(this.high, 0);
    parts.push(element("line", { x1, y1, x2, y2, class: "axis-line" }));
    parts.push(...this.line(this.smooth.length ? this.smooth : raw, { class: "outer-line" }));
    for (const inner of this.inside) parts.push(...this.line(inner, { class: "inner-line" }));
    this.points.forEach(([h, d], i) => { for (const side of [1, -1]) parts.push(this.pointGrip(i, h, (side * d) / 2, side)); });
    if (this.photo) parts.push(this.endGrip("foot"), this.endGrip("top"));
    if (this.glass && !this.photo) parts.push(...this.glassGrips());
    svg.replaceChildren(...parts);
    if (focused) /** @type {any} */ (svg.querySelector(`[data-grip="${focused}"]`))?.focus({ preventScroll: true });
    this.say();
  }

  say(words = "") {
    const widest = Math.max(...this.points.map(([, d]) => d));
    this.told.words?.(words || `${this.high.toFixed(2)} cm high, ${widest.toFixed(2)} cm wide, ${this.points.length} points. Double-click adds a point, Delete takes one away.`);
  }

  grip(name, shape, label, moved) {
    shape.setAttribute("data-grip", name);
    if (label) {
      shape.setAttribute("tabindex", "0");
      shape.setAttribute("role", "slider");
      shape.setAttribute("aria-label", label);
      shape.setAttribute("aria-valuetext", label);
      shape.setAttribute("aria-valuenow", "0");
    }
    shape.addEventListener("pointerdown", (event) => {
      const from = this.now();
      shape.focus?.();
      hold(this.svg, event, {
        move: (dx, dy, now) => this.followed(moved(from, this.way(dx, dy), { dx, dy, step: now.altKey ? FINE_CM : STEP_CM })),
        done: (was, wasKept) => { if (was) this.ended(name, wasKept); },
      });
    });
    shape.addEventListener("keydown", (event) => {
      const way = { ArrowUp: { h: 1, r: 0 }, ArrowDown: { h: -1, r: 0 }, ArrowLeft: { h: 0, r: -1 }, ArrowRight: { h: 0, r: 1 } }[event.key];
      if (!way) return;
      event.preventDefault();
      event.stopPropagation();
      const by = event.altKey ? FINE_CM : STEP_CM, from = this.now();
      this.followed(moved(from, { h: way.h * by, r: way.r * by }, { dx: way.r, dy: -way.h, step: FINE_CM }));
      clearTimeout(this.#rests);
      this.#rests = window.setTimeout(() => this.ended(name, true), 500);
    });
    return shape;
  }

  now() { return structuredClone({ points: this.points, photo: this.photo, glass: this.glass, level: this.level }); }

  followed([what, value]) {
    this.changed = what;
    if (what === "profile") this.smooth = [];
    this.draw();
    this.told.dragged?.(what, value);
  }

  ended(_name, wasKept) { this.told.dropped?.(this.changed, this.value(this.changed), wasKept); }

  value(what) {
    return { profile: this.points.map(([h, d]) => [kept(h), kept(d)]), floor: this.glass?.floor, wall: this.glass?.wall, level: this.level, axis: null }[what];
  }

  pointGrip(i, h, r, side) {
    const [cx, cy] = this.at(h, r), [height, diameter] = this.points[i];
    const shape = element("circle", { cx, cy, r: side > 0 ? 5 : 3.5, class: "outline-point" });
    const label = side > 0 ? `Point ${i + 1}: ${height.toFixed(2)} cm above the foot, ${diameter.toFixed(2)} cm wide` : "";
    this.grip(`${side > 0 ? "p" : "q"}${i}`, shape, label, (from, way, { step }) => {
      const [h0, d0] = from.points[i], edge = i === 0 || i === from.points.length - 1;
      this.points[i] = [edge ? h0 : round(h0 + way.h, step), Math.max(0, round(d0 + 2 * side * way.r, step))];
      return ["profile", this.value("profile")];
    });
    shape.addEventListener("keydown", (event) => {
      if ((event.key !== "Delete" && event.key !== "Backspace") || this.points.length < 3) return;
      event.stopPropagation();
      this.points.splice(i, 1);
      this.followed(["profile", this.value("profile")]);
      this.ended("", true);
    });
    return shape;
  }

  endGrip(end) {
    const [cx, cy] = this.at(end === "foot" ? 0 : this.high, 0);
    return this.grip(end, element("rect", { x: cx - 6, y: cy - 6, width: 12, height: 12, class: "outline-end" }), `${end} of the axis`, (from, _way, { dx, dy }) => {
      const [x, y] = from.photo[end];
      this.photo[end] = [x + dx / this.picture.width, y + dy / this.picture.height];
      return ["axis", null];
    });
  }

  glassGrips() {
    const { glass, level } = this, grips = [];
    const middle = this.high * 0.45, r = this.radius(middle);
    const [fx, fy] = this.at(glass.floor, 0), [wx, wy] = this.at(middle, r - glass.wall / 10);
    if (!glass.measured) {
      grips.push(this.grip("floor", element("rect", { x: fx - 6, y: fy - 6, width: 12, height: 12, class: "outline-end" }), `Base ${glass.floor.toFixed(2)} cm thick`, (from, way, { step }) => {
        glass.floor = Math.max(0.1, kept(round(from.glass.floor + way.h, step)));
        return ["floor", glass.floor];
      }));
      grips.push(this.grip("wall", element("rect", { x: wx - 5, y: wy - 5, width: 10, height: 10, class: "outline-end" }), `Wall ${glass.wall.toFixed(1)} mm`, (from, way) => {
        glass.wall = Math.max(LEAST_WALL_MM, kept(round(from.glass.wall - 10 * way.r, 0.1)));
        return ["wall", glass.wall];
      }));
    }
    if (level !== null) {
      const inner = this.radius(level) - glass.wall / 10, [x, y] = this.at(level, -inner);
      grips.push(this.grip("level", element("rect", { x, y: y - 3, width: 2 * inner * this.scale, height: 6, class: "level-line" }), `Level ${level.toFixed(2)} cm`, (from, way, { step }) => {
        this.level = kept(Math.max(0.1, round(from.level + way.h, step)));
        return ["level", this.level];
      }));
    }
    return grips;
  }

  // Radius of the measured outline at a height.
  radius(height) {
    for (let i = 1; i < this.points.length; i++) {
      const [h0, d0] = this.points[i - 1], [h1, d1] = this.points[i];
      if (height >= h0 && height <= h1 && h1 > h0) return (d0 + ((d1 - d0) * (height - h0)) / (h1 - h0)) / 2;
    }
    return this.points.at(-1)[1] / 2;
  }

  addPoint(event) {
    if (event.target.dataset?.grip) return;
    const rect = this.svg.getBoundingClientRect();
    const { h, r } = this.way(event.clientX - rect.left - this.foot[0], event.clientY - rect.top - this.foot[1]);
    if (h <= this.points[0][0] || h >= this.points.at(-1)[0]) return;
    const after = this.points.findIndex(([height]) => height > h);
    this.points.splice(after, 0, [kept(round(h)), kept(round(2 * Math.abs(r)))]);
    this.followed(["profile", this.value("profile")]);
    this.ended("", true);
  }
}
