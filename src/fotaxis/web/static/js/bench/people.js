// Who else is at this shot, and what they hold. Everybody says so every few seconds; who is silent for longer has gone.
import { $, all } from "../dom.js";

const SILENT_MS = 20000;

export class People {
  constructor(bench) {
    this.bench = bench;
    this.store = bench.store;
    this.store.on("selected", () => this.hold(this.store.selected));
    this.store.on("state", () => this.show());
    this.others = new Map();
    this.holding = null;
    setInterval(() => this.show(), 5000);
  }

  heard({ from, who, holds, gone }) {
    if (gone) this.others.delete(from);
    else this.others.set(from, { who, holds, at: performance.now() });
    this.show();
  }

  // What this hand holds now: told when it changes.
  hold(key) {
    if (this.holding === key) return;
    this.holding = key;
    this.bench.frame.live.say({ holds: key });
  }

  // The line was broken: say it again when it stands.
  again() {
    const key = this.holding ?? "";
    this.holding = null;
    this.hold(key);
  }

  nameOf(key) {
    if (key === "camera") return "the camera";
    return this.store.thing(key)?.thing.name ?? "something";
  }

  holder(key) { return [...this.others.values()].find(({ holds }) => holds === key)?.who ?? ""; }

  show() {
    const now = performance.now();
    for (const [from, { at }] of this.others) if (now - at > SILENT_MS) this.others.delete(from);
    const words = [...this.others.values()].map(({ who, holds }) => (holds ? `${who} holds ${this.nameOf(holds)}` : `${who} is here`));
    $("people").textContent = [...new Set(words)].join(" · ");
    for (const part of all("#lights [data-key]")) {
      const holder = this.holder(part.dataset.key);
      part.classList.toggle("held-elsewhere", Boolean(holder));
      part.querySelector("header").dataset.holder = holder;
    }
  }
}
