// Pointing: at the frame, to read what is mirrored there and by what way; at a thing, to see where the frame shows it.
import { $, all, query, targetOf } from "../dom.js";
import { getJson } from "../api.js";
import { element } from "./svg.js";


export class Probe {
  constructor(bench, frame, box) {
    this.bench = bench;
    this.store = bench.store;
    this.store.on("drag", (on) => { if (on) { this.hide(); this.outline(""); } });
    this.frame = frame;
    this.box = box;
    this.asking = false;
    this.outlines = { key: "" };
    frame.addEventListener("pointermove", (event) => this.point(event));
    frame.addEventListener("pointerleave", () => this.leave());
    $("frame-over").addEventListener("pointermove", (event) => this.point(event)); // what is drawn over the frame hides nothing of it
    frame.addEventListener("click", (event) => this.choose(event));
    for (const area of ["floor", "side", "lights"]) {
      $(area).addEventListener("pointerover", (event) => this.over(event));
      $(area).addEventListener("pointerleave", () => this.outline(""));
      $(area).addEventListener("focusin", (event) => this.over(event));
      $(area).addEventListener("focusout", () => this.outline(""));
    }
  }

  place(event) {
    const rect = this.frame.getBoundingClientRect();
    return { x: (event.clientX - rect.left) / rect.width, y: (event.clientY - rect.top) / rect.height };
  }

  point(event) {
    if (this.store.dragging || this.bench.states?.mode) return;
    this.at = this.place(event);
    this.ask();
  }

  async ask() {
    if (this.asking || !this.at) return;
    this.asking = true;
    const { x, y } = this.at;
    this.at = null;
    try {
      const seen = await this.bench.frame.spot({ x, y });
      if (!this.gone) this.show(seen, x, y);
    } catch {
      this.hide();
    } finally {
      this.asking = false;
      this.gone = false;
      if (this.at) this.ask();
    }
  }

  leave() {
    this.at = null;
    this.gone = this.asking;
    this.hide();
  }

  show(seen, x, y) {
    const { box, frame } = this;
    this.seen = seen;
    query(".spot-here", box).textContent = `${seen.here}: ${seen.level}`;
    query("ul", box).replaceChildren(...seen.parts.map(({ words, share }) => Object.assign(document.createElement("li"), { textContent: share ? `${share} ${words}` : words })));
    box.dataset.at = `${x.toFixed(4)} ${y.toFixed(4)}`;
    box.hidden = false;
    const area = box.offsetParent.getBoundingClientRect(), rect = frame.getBoundingClientRect();
    const left = rect.left - area.left + x * rect.width, top = rect.top - area.top + y * rect.height;
    box.style.left = `${Math.max(4, Math.min(area.width - box.offsetWidth - 4, left + 14))}px`;
    box.style.top = `${top + 18 + box.offsetHeight > area.height ? Math.max(4, top - box.offsetHeight - 12) : top + 18}px`;
    this.bench.drawings.ways(seen.parts.map(({ way }) => way));
    const keys = new Set(seen.parts.map(({ key }) => key));
    for (const thing of all(".drawing .thing, .light")) thing.classList.toggle("mirrored-here", keys.has(thing.dataset.key));
  }

  hide() {
    this.box.hidden = true;
    this.bench.drawings.ways([]);
    for (const thing of all(".mirrored-here")) thing.classList.remove("mirrored-here");
  }

  // A click on the frame selects what is brightest there, or puts a reading down.
  async choose(event) {
    const at = this.place(event);
    if (this.bench.aims.placing) {
      this.bench.aims.put(at);
      return;
    }
    if (this.bench.meter.placing) {
      this.bench.meter.put(at);
      return;
    }
    if (this.bench.readings.placing) {
      this.bench.readings.put(at);
      return;
    }
    const seen = await this.bench.frame.spot(at);
    const part = seen.parts.find(({ key }) => this.store.thing(key));
    if (part) this.store.select(part.key);
  }

  over(event) {
    const own = targetOf(event).closest?.(".thing, .light");
    this.outline(own?.dataset.key ?? "");
  }

  // Where the frame shows a thing: its mirror images outlined.
  async outline(key) {
    this.wanted = key;
    const group = $("image-outlines");
    if (!key || this.store.dragging) {
      group.replaceChildren();
      return;
    }
    const state = this.store.state.layersKey;
    if (this.outlines.key !== state) {
      try {
        this.outlines = { key: state, paths: await getJson(this.store.addresses.images) };
      } catch {
        return;
      }
    }
    if (this.wanted !== key) return;
    const scale = `scale(${this.frame.clientWidth / 1000} ${this.frame.clientHeight / 1000})`;
    group.replaceChildren(element("path", { d: this.outlines.paths[key] ?? "", transform: scale }));
    group.dataset.key = key;
  }
}
