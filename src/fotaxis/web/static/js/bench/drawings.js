// Floor and side: the server draws them, this file lets a hand grab what stands in them.
import { $, all, query, targetOf } from "../dom.js";
import { hold } from "../grip.js";
import { reach } from "./paths.js";
import { element } from "./svg.js";

const SNAP_CM = 0.5, FINE_CM = 0.1, NEAR_CM = 1.2, ROUND_CM = 5, LEAST_CM = 1, LEAST_LENS_MM = 12, MOST_LENS_MM = 600;

const MAY_BE_NONE = ["table.sweep_cm", "table.drop_cm"];
const leastOf = (part) => (MAY_BE_NONE.includes(part) ? 0 : LEAST_CM);

export class Drawings {
  constructor(bench, floor, side) {
    this.bench = bench;
    this.store = bench.store;
    this.boxes = { floor, side };
    this.shown = {};
    this.store.on("state", () => { this.show(this.store.state); this.mark(this.store.selected); });
    this.store.on("selected", () => this.mark(this.store.selected));
    for (const [view, box] of Object.entries(this.boxes)) {
      box.addEventListener("pointerdown", (event) => this.grab(event, view));
      box.addEventListener("wheel", (event) => this.turnByWheel(event, view), { passive: false });
      box.addEventListener("keydown", (event) => {
        if (targetOf(event).dataset.part) this.pulledByKey(event);
        const thing = targetOf(event).closest?.(".thing");
        if (thing && (event.key === "Enter" || event.key === " ")) {
          event.preventDefault();
          this.store.select(thing.dataset.key);
        }
      });
    }
  }

  // A wheel over what is chosen turns it, from the side it tilts it: by a degree, with Alt by a tenth, with Shift by ten.
  turnByWheel(event, view) {
    const thing = targetOf(event).closest?.(".thing");
    const by = Math.sign(event.deltaY || event.deltaX);
    if (!thing || thing.dataset.key !== this.store.selected || !by) return;
    event.preventDefault();
    const step = by * (event.altKey ? 0.1 : event.shiftKey ? 10 : 1);
    this.store.nudge([[[view === "floor" ? "turn_deg" : "tilt_deg"], step]], "Turned by the wheel", (wish) => this.bench.frame.preview(wish, { moved: performance.now() }));
  }

  // drawings: {floor, side}, each the opening tag and the parts of an SVG, made by the server from escaped names.
  show({ floor, side }) {
    /** @type {any} */
    const focused = document.activeElement?.closest?.(".thing");
    const back = focused && { key: focused.dataset.key, view: focused.dataset.view };
    this.put("floor", floor);
    this.put("side", side);
    if (!back || document.activeElement?.closest?.(".thing")) return;
    query(`.thing[data-key="${CSS.escape(back.key)}"]`, this.boxes[back.view])?.focus({ preventScroll: true });
  }

  // Every part stands in a group of its own, so that only what changed is made and painted anew.
  put(view, pieces) {
    const before = this.shown[view];
    const [opening, ...parts] = pieces;
    if (before?.[0] !== opening || before.length !== pieces.length) {
      this.boxes[view].innerHTML = `${opening}${parts.map((part) => `<g>${part}</g>`).join("")}</svg>`;
    } else {
      const groups = this.boxes[view].firstElementChild.children;
      parts.forEach((part, i) => { if (before[i + 1] !== part) groups[i].innerHTML = part; });
    }
    this.shown[view] = pieces;
  }

  mark(key) {
    for (const thing of all(".drawing .thing")) {
      thing.classList.toggle("selected", thing.dataset.key === key);
      thing.setAttribute("aria-pressed", String(thing.dataset.key === key));
    }
  }

  // ---- what is drawn over the server's drawings: ways of light, and what a drag has snapped to

  // ways: each a list of places [x, y, z] in centimetres, the strongest first.
  ways(ways) {
    const flat = { floor: ([x, , z]) => [x, z], side: ([, y, z]) => [z, -y] };
    for (const [view, of] of Object.entries(flat)) {
      this.over(view, "ways", ways.map((way, i) => element("polyline", {
        class: i ? "way-of-light weaker" : "way-of-light",
        points: way.map((place) => { const [a, b] = of(place); return this.point(view, a, b).join(","); }).join(" "),
      })));
    }
  }

  over(view, name, parts) {
    const svg = $(`${view}-over`);
    let group = query(`.${name}`, svg);
    if (!group) svg.append(group = element("g", { class: name }));
    group.replaceChildren(...parts);
  }

  point(view, a, b) {
    const svg = this.boxes[view].querySelector("svg");
    if (!svg) return [0, 0];
    const { scale, ox, oy } = svg.dataset;
    const stretch = svg.getBoundingClientRect().width / svg.viewBox.baseVal.width;
    return [(Number(ox) + a * scale) * stretch, (Number(oy) + b * scale) * stretch].map((value) => Math.round(value * 10) / 10);
  }

  guides(lines) {
    const said = lines.map((line) => line.words).join();
    if (!said && !this.guided) return;
    this.guided = said;
    this.over("floor", "guides", lines.flatMap(({ from, to, words }) => {
      const [x1, y1] = this.point("floor", ...from), [x2, y2] = this.point("floor", ...to);
      return [element("line", { x1, y1, x2, y2 }), element("text", { x: x2 + 8, y: y2 - 8 }, words)];
    }));
  }

  // Where a thing on the floor likes to stand: on the axis, opposite another, or at a round distance from the axis.
  snapped(x, z, key) {
    const others = [...this.store.document.lights, ...this.store.document.cards].filter((one) => one.key !== key && one.place);
    for (const one of others) {
      if (Math.abs(one.place.x_cm) > NEAR_CM && Math.hypot(x + one.place.x_cm, z - one.place.z_cm) < NEAR_CM) {
        return { x: -one.place.x_cm, z: one.place.z_cm, guides: [{ from: [one.place.x_cm, one.place.z_cm], to: [-one.place.x_cm, one.place.z_cm], words: `opposite ${one.name}` }] };
      }
    }
    if (Math.abs(x) < NEAR_CM) return { x: 0, z, guides: [{ from: [0, 0], to: [0, z], words: "on the axis" }] };
    const away = Math.hypot(x, z), round = Math.round(away / ROUND_CM) * ROUND_CM;
    if (round > 0 && Math.abs(away - round) < NEAR_CM / 3) {
      return { x: (x * round) / away, z: (z * round) / away, guides: [{ from: [0, 0], to: [(x * round) / away, (z * round) / away], words: `${round} cm from the axis` }] };
    }
    return { x, z, guides: [] };
  }

  // ---- the tape: two things chosen one after the other

  measuring(on) {
    this.tapeFrom = on ? "" : null;
    document.body.classList.toggle("measuring", on);
    $("tape-button").setAttribute("aria-pressed", String(on));
    if (on) this.store.note("Tape: choose a first thing on the floor or in the side view, then a second. Product and camera count. Escape leaves it.");
    else this.store.setTape(null);
  }

  taped(key) {
    if (!this.tapeFrom) {
      this.tapeFrom = key;
      this.store.note("Tape: now the second thing.");
      return;
    }
    const from = this.tapeFrom;
    this.tapeFrom = "";
    this.store.setTape([from, key]);
  }

  // Keys of all things that lie under a pointer, the uppermost first.
  under(event) {
    const found = document.elementsFromPoint(event.clientX, event.clientY).map((part) => /** @type {any} */ (part).closest?.(".drawing .thing")?.dataset.key);
    return [...new Set(found.filter(Boolean))];
  }

  // Place of a pointer in a drawing, centimetres right and down of the origin.
  place(event, svg, rect = svg.getBoundingClientRect()) {
    const stretch = svg.viewBox.baseVal.width / rect.width;
    const { scale, ox, oy } = svg.dataset;
    return {
      a: ((event.clientX - rect.left) * stretch - Number(ox)) / Number(scale),
      b: ((event.clientY - rect.top) * stretch - Number(oy)) / Number(scale),
    };
  }

  // What is clicked while something is being aimed: a thing or the lens, else the place itself, in the plane of the drawing.
  aimed(event, view) {
    const key = targetOf(event).closest(".thing")?.dataset.key, svg = this.boxes[view].querySelector("svg");
    const { a, b } = this.place(event, svg, svg.getBoundingClientRect()), { aim_height_cm: height } = this.store.document.camera;
    const place = view === "floor" ? { x_cm: a, y_cm: height, z_cm: b } : { x_cm: 0, y_cm: -b, z_cm: a };
    const onProduct = document.elementsFromPoint(event.clientX, event.clientY).some((part) => part.closest(".product-group"));
    this.bench.aims.at(key, place, onProduct ? "the product" : "a place");
  }

  grab(event, view) {
    if (event.button !== 0) return;
    const { store } = this;
    if (document.body.classList.contains("measuring")) {
      const key = targetOf(event).closest(".thing, .product-group")?.dataset.key;
      event.preventDefault();
      if (key) this.taped(key);
      return;
    }
    if (this.bench.aims.placing) {
      event.preventDefault();
      this.aimed(event, view);
      return;
    }
    if (targetOf(event).dataset.part) {
      this.pull(event, view);
      return;
    }
    const group = targetOf(event).closest(".thing");
    if (!group) {
      if (store.selected) store.select("");
      return;
    }
    event.preventDefault();
    // What is chosen already is held, whatever lies over it; a click that moves nothing takes the next thing there.
    const under = this.under(event);
    const key = under.includes(store.selected) && !targetOf(event).dataset.handle ? store.selected : group.dataset.key;
    const next = under.length > 1 && store.selected === key ? under[(under.indexOf(key) + 1) % under.length] : key;
    if (store.selected !== key) store.select(key, { look: false });
    const { list, thing } = store.thing(key);
    if (thing.kind === "sun") {
      store.select(key);
      return;
    }
    const svg = group.closest("svg");
    const rect = svg.getBoundingClientRect(); // the drawing stays where it is while a hand holds something in it
    const start = this.place(event, svg, rect);
    const grip = { key, list, view, start, rect, svg: svg.dataset, handle: targetOf(event).dataset.handle, next, from: structuredClone(thing), moved: false };
    const box = this.boxes[view];
    box.setPointerCapture(event.pointerId);
    const move = (e) => this.drag(e, grip);
    const done = (e) => {
      box.removeEventListener("pointermove", move);
      box.removeEventListener("pointerup", done);
      box.removeEventListener("pointercancel", done);
      this.drop(grip, e.type === "pointercancel");
    };
    box.addEventListener("pointermove", move);
    box.addEventListener("pointerup", done);
    box.addEventListener("pointercancel", done);
  }

  drag(event, grip) {
    const svg = this.boxes[grip.view].querySelector("svg");
    const now = this.place(event, svg, grip.rect);
    const da = now.a - grip.start.a, db = now.b - grip.start.b;
    const snap = event.altKey ? FINE_CM : SNAP_CM;
    const round = (value) => Math.round(value / snap) * snap;
    const { from, list, key } = grip;
    const at = { others: from, camera: { x_cm: from.side_cm, y_cm: from.height_cm, z_cm: from.distance_cm } }[list] ?? from.place;
    const set = (name, value) => {
      const own = this.store.own(list, name);
      return own && { path: list === "camera" ? ["camera", ...own] : [list, key, ...own], value: Math.round(value * 1000) / 1000 };
    };
    if (grip.handle === "aim" || grip.handle === "frame") {
      grip.changes = this.framed(grip, now, da, db, snap);
    } else if (grip.handle === "turn") {
      const degrees = (Math.atan2(now.a - at.x_cm, now.b - at.z_cm) * 180) / Math.PI;
      grip.changes = [set(["turn_deg"], event.shiftKey ? Math.round(degrees / 5) * 5 : Math.round(degrees))];
    } else if (grip.handle === "tilt") {
      const degrees = from.tilt_deg - db * Number(grip.svg.scale) * 0.6;
      grip.changes = [set(["tilt_deg"], Math.round(Math.max(-90, Math.min(90, degrees))))];
    } else if (grip.handle === "width" || grip.handle === "height") {
      grip.changes = this.sized(grip, now, set);
    } else if (grip.view === "floor") {
      const free = { x: round(at.x_cm + da), z: round(at.z_cm + db), guides: [] };
      const to = event.altKey || list === "camera" ? free : this.snapped(free.x, free.z, key);
      this.guides(to.guides);
      grip.changes = [set(["place", "x_cm"], to.x), set(["place", "z_cm"], to.z)];
    } else {
      grip.changes = [set(["place", "z_cm"], round(at.z_cm + da)), set(["place", "y_cm"], round((at.y_cm ?? 0) - db))];
    }
    grip.changes = grip.changes.filter(Boolean);
    if (!grip.moved && Math.hypot(da, db) * Number(grip.svg.scale) < 2) return;
    grip.moved = true;
    this.store.put(grip.changes);
    this.store.drag(true);
    this.bench.frame.preview(grip.changes, { moved: event.timeStamp });
  }

  // ---- table, riser and background by their edges

  pull(event, view) {
    const { part, axis, times } = targetOf(event).dataset, path = part.split("."), svg = this.boxes[view].querySelector("svg");
    const rect = svg.getBoundingClientRect(), start = this.place(event, svg, rect), from = reach(this.store.document, path) ?? 0;
    const box = this.boxes[view], label = targetOf(event).getAttribute("aria-label").split(":")[0];
    let change = null;
    hold(box, event, {
      least: 0,
      move: (_dx, _dy, now) => {
        const to = this.place(now, svg, rect), step = now.altKey ? FINE_CM : SNAP_CM;
        const value = Math.max(leastOf(part), Math.round((from + times * (to[axis] - start[axis])) / step) * step);
        change = { path, value: Math.round(value * 1000) / 1000 };
        this.store.put([change]);
        this.store.drag(true);
        this.bench.frame.preview([change], { moved: now.timeStamp });
      },
      done: (moved, kept) => {
        if (!moved) return;
        if (kept) this.store.commit([change], label);
        else this.store.refresh();
        this.store.drag(false);
      },
    });
  }

  pulledByKey(event) {
    const by = { ArrowUp: 1, ArrowRight: 1, ArrowDown: -1, ArrowLeft: -1 }[event.key];
    if (!by) return;
    event.preventDefault();
    event.stopPropagation();
    const { part } = targetOf(event).dataset, path = part.split("."), from = reach(this.store.document, path) ?? 0;
    const value = Math.max(leastOf(part), Math.round((from + by * (event.altKey ? FINE_CM : SNAP_CM)) * 10) / 10);
    this.store.put([{ path, value }]);
    this.store.commit([{ path, value }], targetOf(event).getAttribute("aria-label").split(":")[0]);
  }

  // The camera turned by the middle of its frame, or its lens changed by the frame's end.
  framed(grip, now, da, db, snap) {
    const { from, start, view } = grip, flat = view === "floor";
    const set = (name, value, step) => ({ path: ["camera", name], value: Math.round(Math.round(value / step) * step * 1000) / 1000 });
    if (grip.handle === "aim") return [flat ? set("aim_side_cm", from.aim_side_cm + da, snap) : set("aim_height_cm", from.aim_height_cm - db, snap)];
    const far = ({ a, b }) => (flat ? Math.abs(a - from.aim_side_cm) : Math.abs(-b - from.aim_height_cm));
    const length = from.focal_length_mm * (far(start) / Math.max(far(now), 0.1));
    return [set("focal_length_mm", Math.max(LEAST_LENS_MM, Math.min(MOST_LENS_MM, length)), 0.5)];
  }

  // The size of a face from how far the pointer is from its middle, both ends alike.
  sized(grip, now, set) {
    const { from, start, svg } = grip;
    const round = (value) => Math.round(Math.max(LEAST_CM, value) / SNAP_CM) * SNAP_CM;
    if (grip.handle === "width") {
      const middle = { a: from.place.x_cm, b: from.place.z_cm }, turn = (from.turn_deg * Math.PI) / 180;
      const along = (now.a - middle.a) * Math.cos(turn) - (now.b - middle.b) * Math.sin(turn);
      return [set(["width_cm"], round(2 * Math.abs(along)))];
    }
    const far = (place) => Math.hypot(place.a - from.place.z_cm, place.b + from.place.y_cm);
    const before = Math.max(far(start), 1 / svg.scale);
    return [set(["height_cm"], round((from.height_cm * far(now)) / before))];
  }

  drop(grip, cancelled) {
    const { store } = this;
    this.guides([]);
    if (!grip.moved) {
      store.select(grip.next);
      return;
    }
    if (cancelled) store.refresh();
    else {
      const what = { turn: "Turned", tilt: "Tilted", width: "Sized", height: "Sized", aim: "Aimed", frame: "Framed by" }[grip.handle] ?? "Moved";
      store.commit(grip.changes, `${what} ${grip.from.name ?? "the camera"}`);
    }
    store.drag(false);
  }
}
