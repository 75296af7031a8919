// Framing: the product fills a stated part of the frame; another lens may keep it so.
import { $ } from "../dom.js";
import { post } from "../api.js";

const KEPT = "fotaxis-keep-framing";

export class Framing {
  constructor(bench) {
    this.store = bench.store;
    $("reframe").onclick = () => this.frame();
    $("keep-framing").checked = localStorage.getItem(KEPT) === "yes";
    $("keep-framing").onchange = ({ target }) => localStorage.setItem(KEPT, target.checked ? "yes" : "no");
  }

  get keeps() { return $("keep-framing").checked; }

  frame(more = { fills: Number($("fills").value) / 100 }) {
    this.store.enqueue(() => post(this.store.addresses.reframe, { ...more, view: { ...this.store.view(), fit: null } }));
  }

  /** The outline has changed: offered, not done. */
  offer() {
    this.store.hold("The outline has changed.", { words: "Frame it anew", act: () => this.frame() });
  }
}
