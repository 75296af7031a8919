// The reading line over the frame: pull it, or its ends; arrow keys while the frame has the focus.
import { query } from "../dom.js";

const clamp = (value) => Math.max(0, Math.min(1, value));

export class ReadingLine {
  constructor(bench, svg, frame) {
    this.bench = bench;
    this.store = bench.store;
    this.store.on("state", () => this.show());
    this.svg = svg;
    this.frame = frame;
    this.parts = { line: query("line", svg), start: query("#line-start", svg), end: query("#line-end", svg) };
    for (const [name, part] of Object.entries(this.parts)) part.addEventListener("pointerdown", (event) => this.grab(event, name, part));
    frame.addEventListener("keydown", (event) => {
      const step = { ArrowUp: -0.01, ArrowDown: 0.01 }[event.key];
      if (!step) return;
      event.preventDefault();
      event.stopPropagation();
      const line = { ...this.store.document.reading_line };
      line.y0 = clamp(line.y0 + step);
      line.y1 = clamp(line.y1 + step);
      this.follow(line);
      clearTimeout(this.timer);
      this.timer = setTimeout(() => this.keep(line), 300);
    });
  }

  show(line = this.store.document.reading_line) {
    const w = this.frame.clientWidth, h = this.frame.clientHeight;
    const { line: stroke, start, end } = this.parts;
    const set = (part, values) => { for (const [name, value] of Object.entries(values)) part.setAttribute(name, value); };
    set(stroke, { x1: line.x0 * w, y1: line.y0 * h, x2: line.x1 * w, y2: line.y1 * h });
    set(start, { cx: Math.max(8, line.x0 * w), cy: line.y0 * h });
    set(end, { cx: Math.min(w - 8, line.x1 * w), cy: line.y1 * h });
  }

  follow(line) {
    this.store.setReadingLine(line);
    this.show(line);
    this.bench.frame.read([{ path: ["reading_line"], value: line }]);
  }

  keep(line) {
    this.store.commit([{ path: ["reading_line"], value: line }], "Moved the reading line");
  }

  grab(event, name, part) {
    event.preventDefault();
    part.setPointerCapture(event.pointerId);
    const rect = this.frame.getBoundingClientRect();
    const from = { ...this.store.document.reading_line };
    const x = event.clientX, y = event.clientY;
    let line = from;
    const move = (e) => {
      const dx = (e.clientX - x) / rect.width, dy = (e.clientY - y) / rect.height;
      line = { ...from };
      if (name === "line") Object.assign(line, { y0: clamp(from.y0 + dy), y1: clamp(from.y1 + dy) });
      if (name === "start") Object.assign(line, { x0: clamp(from.x0 + dx), y0: clamp(from.y0 + dy) });
      if (name === "end") Object.assign(line, { x1: clamp(from.x1 + dx), y1: clamp(from.y1 + dy) });
      if (Math.abs(line.x1 - line.x0) + Math.abs(line.y1 - line.y0) > 0.02) this.follow(line);
    };
    const done = () => {
      part.removeEventListener("pointermove", move);
      part.removeEventListener("pointerup", done);
      part.removeEventListener("pointercancel", done);
      if (line !== from) this.keep(this.store.document.reading_line);
    };
    part.addEventListener("pointermove", move);
    part.addEventListener("pointerup", done);
    part.addEventListener("pointercancel", done);
  }
}
