// A wish marked on the frame: a rectangle dragged over what must be lit there.
import { $ } from "../dom.js";
import { hold } from "../grip.js";
import { element } from "./svg.js";

const LEAST_PX = 4;

export class Marking {
  constructor(bench) {
    this.bench = bench;
    this.store = bench.store;
    this.on = false;
    $("mark-wish").onclick = () => this.turn(!this.on);
    $("frame").addEventListener("pointerdown", (event) => { if (this.on) this.draw(event); });
  }

  turn(on) {
    this.on = on;
    $("mark-wish").setAttribute("aria-pressed", String(on));
    document.body.classList.toggle("marking", on);
    this.store.note(on ? "Drag over the frame where it must be so: along an edge a line, on gloss a highlight, on paper a level, beside the product the ground. Escape leaves it." : "");
  }

  draw(event) {
    const frame = $("frame"), box = frame.getBoundingClientRect();
    const from = { x: event.clientX - box.left, y: event.clientY - box.top };
    const rect = element("rect", { class: "frame-part" });
    $("frame-over").append(rect);
    const within = (value, most) => Math.max(0, Math.min(most, value));
    let to = from;
    hold(frame, event, {
      move: (dx, dy) => {
        to = { x: within(from.x + dx, box.width), y: within(from.y + dy, box.height) };
        for (const [name, value] of Object.entries({
          x: Math.min(from.x, to.x), y: Math.min(from.y, to.y), width: Math.abs(to.x - from.x), height: Math.abs(to.y - from.y),
        })) rect.setAttribute(name, String(value));
      },
      done: (moved, kept) => {
        rect.remove();
        if (!kept || !moved || Math.abs(to.x - from.x) < LEAST_PX || Math.abs(to.y - from.y) < LEAST_PX) return;
        this.turn(false);
        this.store.markWish({
          x: Math.min(from.x, to.x) / box.width, y: Math.min(from.y, to.y) / box.height,
          to_x: Math.max(from.x, to.x) / box.width, to_y: Math.max(from.y, to.y) / box.height,
        });
      },
    });
  }
}
