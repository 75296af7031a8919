// Cards, sheets, flags and nets as a row of their own beside the lights: chosen by click or Shift and a number.
import { $ } from "../dom.js";

export class Cards {
  constructor(bench) {
    this.store = bench.store;
    this.store.on(["state", "selected"], () => this.show());
    $("cards").addEventListener("click", ({ target }) => {
      const key = /** @type {any} */ (target).closest("[data-key]")?.dataset.key;
      if (key) this.choose(key);
    });
  }

  get keys() { return (this.store.document.cards ?? []).map(({ key }) => key); }

  choose(key) { this.store.select(this.store.selected === key ? "" : key); }

  /** @param {number} at the how-manieth card, from 0 */
  number(at) {
    if (this.keys[at]) this.choose(this.keys[at]);
  }

  show() {
    const { store } = this;
    const things = new Map(store.state.things.map((thing) => [thing.key, thing]));
    $("cards").replaceChildren(...this.keys.map((key, i) => {
      const thing = things.get(key);
      const button = Object.assign(document.createElement("button"), {
        type: "button", className: "card-chip thing", textContent: `${thing?.number ?? ""} ${thing?.name ?? key}`,
        title: `${thing?.kind ?? ""}, ${thing?.size ?? ""}${i < 9 ? ` (Shift+${i + 1})` : ""}`,
      });
      button.dataset.key = key;
      button.setAttribute("aria-pressed", String(store.selected === key));
      button.classList.toggle("selected", store.selected === key);
      if (thing?.fault) button.classList.add("warned");
      return button;
    }));
    $("cards").hidden = !this.keys.length;
  }
}
