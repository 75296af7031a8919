// Floor and side: the server draws them, this file lets a hand grab what stands in them.

const SNAP_CM = 0.5, FINE_CM = 0.1;

export class Drawings {
  constructor(bench, floor, side) {
    this.bench = bench;
    this.boxes = { floor, side };
    this.shown = {};
    for (const [view, box] of Object.entries(this.boxes)) {
      box.addEventListener("pointerdown", (event) => this.grab(event, view));
      box.addEventListener("keydown", (event) => {
        const thing = event.target.closest?.(".thing");
        if (thing && (event.key === "Enter" || event.key === " ")) {
          event.preventDefault();
          bench.select(thing.dataset.key);
        }
      });
    }
  }

  // drawings: {floor, side}, each the opening tag and the parts of an SVG, made by the server from escaped names.
  show({ floor, side }) {
    const focused = document.activeElement?.closest?.(".thing");
    const back = focused && { key: focused.dataset.key, view: focused.dataset.view };
    this.put("floor", floor);
    this.put("side", side);
    if (back && !document.activeElement?.closest?.(".thing")) this.boxes[back.view].querySelector(`.thing[data-key="${CSS.escape(back.key)}"]`)?.focus({ preventScroll: true });
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
    for (const thing of document.querySelectorAll(".drawing .thing")) {
      thing.classList.toggle("selected", thing.dataset.key === key);
      thing.setAttribute("aria-pressed", String(thing.dataset.key === key));
    }
  }

  // Place of a pointer in a drawing, centimetres right and down of the origin.
  place(event, svg) {
    const rect = svg.getBoundingClientRect();
    const stretch = svg.viewBox.baseVal.width / rect.width;
    const { scale, ox, oy } = svg.dataset;
    return {
      a: ((event.clientX - rect.left) * stretch - Number(ox)) / Number(scale),
      b: ((event.clientY - rect.top) * stretch - Number(oy)) / Number(scale),
    };
  }

  grab(event, view) {
    if (event.button !== 0) return;
    const group = event.target.closest(".thing");
    const bench = this.bench;
    if (!group) {
      if (bench.selected) bench.select("");
      return;
    }
    event.preventDefault();
    const key = group.dataset.key;
    if (bench.selected !== key) {
      bench.selected = key;
      this.mark(key);
      bench.lights.mark(key);
      bench.showTape();
    }
    const { list, thing } = bench.thing(key);
    if (thing.kind === "sun") {
      bench.select(key);
      return;
    }
    const svg = group.closest("svg");
    const start = this.place(event, svg);
    const grip = { key, list, view, start, svg: svg.dataset, handle: event.target.dataset.handle, from: structuredClone(thing), moved: false };
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
    const now = this.place(event, svg);
    const da = now.a - grip.start.a, db = now.b - grip.start.b;
    const snap = event.altKey ? FINE_CM : SNAP_CM;
    const round = (value) => Math.round(value / snap) * snap;
    const { from, list, key } = grip;
    const at = { others: from, camera: { x_cm: from.side_cm, y_cm: from.height_cm, z_cm: from.distance_cm } }[list] ?? from.place;
    const set = (name, value) => {
      const own = this.bench.own(list, name);
      return own && { path: list === "camera" ? ["camera", ...own] : [list, key, ...own], value: Math.round(value * 1000) / 1000 };
    };
    if (grip.handle === "turn") {
      const degrees = (Math.atan2(now.a - at.x_cm, now.b - at.z_cm) * 180) / Math.PI;
      grip.changes = [set(["turn_deg"], event.shiftKey ? Math.round(degrees / 5) * 5 : Math.round(degrees))];
    } else if (grip.handle === "tilt") {
      const degrees = from.tilt_deg - db * Number(grip.svg.scale) * 0.6;
      grip.changes = [set(["tilt_deg"], Math.round(Math.max(-90, Math.min(90, degrees))))];
    } else if (grip.view === "floor") {
      grip.changes = [set(["place", "x_cm"], round(at.x_cm + da)), set(["place", "z_cm"], round(at.z_cm + db))];
    } else {
      grip.changes = [set(["place", "z_cm"], round(at.z_cm + da)), set(["place", "y_cm"], round((at.y_cm ?? 0) - db))];
    }
    grip.changes = grip.changes.filter(Boolean);
    if (!grip.moved && Math.hypot(da, db) * Number(grip.svg.scale) < 2) return;
    grip.moved = true;
    this.bench.preview(grip.changes, { moved: event.timeStamp });
  }

  drop(grip, cancelled) {
    const bench = this.bench;
    if (!grip.moved) {
      bench.select(grip.key);
      return;
    }
    bench.settled();
    if (cancelled) {
      bench.refresh();
      bench.mix();
      return;
    }
    const what = { turn: "Turned", tilt: "Tilted" }[grip.handle] ?? "Moved";
    bench.commit(grip.changes, `${what} ${grip.from.name ?? "the camera"}`);
  }
}
