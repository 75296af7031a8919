// The reckoner on the bench: filled in with this shot's numbers, its answer taken into the set with one key.
import { getJson, post, Problem } from "../api.js";
import { $ } from "../dom.js";
import { Asking } from "../reckoner/asking.js";
import { Memory } from "../reckoner/memory.js";
import { Panel } from "../reckoner/panel.js";

export class Reckon {
  #panel = null;

  constructor(bench) {
    this.store = bench.store;
    this.dialog = $("reckoning");
    $("reckoner-close").addEventListener("click", () => this.dialog.close());
    $("reckon-button").addEventListener("click", () => this.open());
    this.store.on(["state"], () => { if (this.dialog.open) this.#numbers(); });
  }

  async open() {
    this.dialog.showModal();
    const panel = this.#panel ?? await this.#made();
    await this.#numbers();
    panel.find();
    if (panel.memory.last) panel.open(panel.memory.last);
  }

  /** The calculations are asked for when the reckoner is first opened. */
  async #made() {
    const { addresses } = this.store;
    const calculations = await getJson(addresses.calculations);
    this.#panel = new Panel($("reckoner"), {
      calculations, asking: new Asking({ answer: addresses.answer }), memory: new Memory(addresses.shot), inches: () => this.store.unit === "in",
      into: (what) => this.#take(what),
      off: (kept) => this.store.commit([{ kind: "remove", path: ["reckoned", kept.key] }], `${kept.name} off the sheet`),
    });
    return this.#panel;
  }

  async #numbers() {
    try {
      const about = await getJson(`${this.store.addresses.reckoner}?${new URLSearchParams({ light: this.store.selected })}`);
      this.#panel?.about(about);
      $("reckoner-light").textContent = about.light ? `Light: ${about.light}${this.store.selected ? "" : " (select another first to reckon for it)"}` : "";
    } catch (error) { if (!(error instanceof Problem)) throw error; }
  }

  async #take(what) {
    const { one, texts, unknown } = this.#panel, { store } = this;
    const taken = await store.enqueue(() => post(store.addresses.reckoner, {
      key: one.key, texts, unknown, inches: store.unit === "in", into: what, light: store.selected, view: { ...store.view(), fit: null },
    }));
    if (taken && what === "set") this.dialog.close();
    else $("reckoner-light").textContent = taken?.note ?? "";
  }
}
