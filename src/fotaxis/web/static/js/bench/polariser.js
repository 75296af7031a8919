// Where turning a polariser would help: a map over the frame, and what it does to each zone in words.
import { $ } from "../dom.js";
import { getPacked } from "../api.js";

export class PolariserMap {
  constructor(bench) {
    this.store = bench.store;
    this.button = $("polariser-button");
    this.button.onclick = () => (this.on ? this.hide() : this.show());
    this.store.on("adopted", () => this.hide());
    this.store.on("drag", (on) => { if (on) this.hide(); });
  }

  get on() { return this.button.getAttribute("aria-pressed") === "true"; }

  async show() {
    this.button.setAttribute("aria-pressed", "true");
    this.store.note("Looking at four turns of a polariser…");
    try {
      const { header, payload } = await getPacked(this.store.addresses.polariser);
      if (!this.on) return;
      const map = /** @type {HTMLImageElement} */ ($("polariser-map")), frame = $("frame");
      URL.revokeObjectURL(map.src);
      map.src = URL.createObjectURL(new Blob([payload], { type: "image/png" }));
      map.style.width = frame.style.width;
      map.style.height = frame.style.height;
      map.hidden = false;
      this.store.note(header.words);
    } catch (error) {
      this.hide();
      this.store.note(error.message);
    }
  }

  hide() {
    if (!this.on) return;
    this.button.setAttribute("aria-pressed", "false");
    $("polariser-map").hidden = true;
    this.store.note("");
  }
}
