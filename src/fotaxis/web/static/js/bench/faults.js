// What would spoil the photograph: how many things there are to look at, and the list of them where nothing is chosen.
import { $ } from "../dom.js";

export class Faults {
  constructor(bench) {
    this.store = bench.store;
    this.store.on("judged", () => this.show());
    this.store.on("selected", () => this.list());
    $("faults-button").onclick = () => {
      this.store.select("");
      $("tab-set").click();
    };
  }

  get all() { return this.store.judged?.faults ?? []; }

  show() {
    const { all } = this;
    $("faults-button").hidden = !all.length;
    $("faults-button").textContent = all.length === 1 ? "1 thing to look at" : `${all.length} things to look at`;
    $("faults-button").title = all.map(({ words }) => words).join("\n");
    this.list();
  }

  list() {
    const { store } = this;
    $("faults").hidden = Boolean(store.thing()) || !this.all.length;
    $("faults").replaceChildren(...this.all.map(({ key, words, flag }) => {
      const row = document.createElement("li");
      row.textContent = words;
      const button = (text, act) => {
        const made = Object.assign(document.createElement("button"), { type: "button", className: "quiet", textContent: text, onclick: act });
        row.append(" ", made);
      };
      if (store.thing(key)) button("Select it", () => store.select(key));
      if (flag) button("Put the flag there", () => this.flag(flag));
      return row;
    }));
  }

  flag(card) {
    const taken = new Set(keysOf(this.store));
    let key = "lens-flag";
    for (let n = 2; taken.has(key); n++) key = `lens-flag-${n}`;
    this.store.commit([{ kind: "add", path: ["cards"], value: { ...card, key } }], `Added ${card.name}`);
  }
}

const keysOf = ({ document }) => ["lights", "cards", "others"].flatMap((list) => (document[list] ?? []).map(({ key }) => key));
