// The reckoner on the bench: filled in with this shot's numbers, its answer taken into the set with one key.
import { getJson, post, Problem } from "../api.js";
import { $ } from "../dom.js";
import { Asking } from "../reckoner/asking.js";
import { Memory } from "../reckoner/memory.js";
import { Panel } from "../reckoner/panel.js";

const PATIENCE_MS = 1500;

export class Reckon {
  #panel = null;
  #making = null;
  #early = false;

  constructor(bench) {
    this.store = bench.store;
    this.dialog = $("reckoning");
    $("reckoner-close").addEventListener("click", () => this.dialog.close());
    $("reckon-button").addEventListener("click", () => this.open());
    // A quick hand types and presses Enter before the calculations are here: it is not asked twice.
    this.dialog.addEventListener("keydown", (event) => { if (!this.#panel && event.key === "Enter") this.#early = true; });
    setTimeout(() => this.#made(), PATIENCE_MS);
    this.store.on(["state"], () => { if (this.dialog.open) this.#numbers(); });
  }

  async open() {
    $("reckoner").querySelector("[data-find]").value = "";
    this.dialog.showModal();
    const panel = await this.#made();
    if (this.#early) panel.openFound();
    else panel.find();
    this.#early = false;
    await this.#numbers();
    if (panel.memory.last && !$("reckoner").dataset.open && !panel.part("find").value) panel.open(panel.memory.last);
  }

  /** The calculations are asked for once, when the bench has come to rest or the reckoner is opened. */
  #made() {
    this.#making ??= this.#make();
    return this.#making;
  }

  async #make() {
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
