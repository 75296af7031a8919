// Tops, backgrounds and risers chosen from small pictures; each stands for a choice of a list beside it.
import { $, all, query } from "../dom.js";
import { reach } from "./paths.js";

const AGAIN_MS = 900;

export class Surface {
  constructor(bench) {
    this.store = bench.store;
    this.panel = $("panel-surface");
    this.panel.addEventListener("click", ({ target }) => {
      const tile = target.closest("[data-tile-of]");
      if (tile) this.choose(tile);
    });
    this.store.on("state", () => this.mark());
  }

  choose(tile) {
    const field = query(`select[data-path="${tile.dataset.tileOf}"]`, this.panel);
    field.value = tile.value;
    field.dispatchEvent(new Event("change", { bubbles: true }));
  }

  mark() {
    for (const tile of all("[data-tile-of]", this.panel)) {
      tile.setAttribute("aria-pressed", String(reach(this.store.document, tile.dataset.tileOf.split(".")) === tile.value));
    }
  }

  // One picture after the other, when they are first looked at: the server makes them in turn anyway.
  async show() {
    this.mark();
    for (const image of all("img[data-src]", this.panel)) {
      if (image.getAttribute("src") || this.panel.hidden) continue;
      image.src = image.dataset.src;
      try { await image.decode(); } catch {
        image.removeAttribute("src");
        await new Promise((done) => { setTimeout(done, AGAIN_MS); });
      }
    }
  }
}
