// Studies of the set, made by workers: how delicate it is, and the best of many variants of where one thing stands.
import { $ } from "../dom.js";
import { getJson, post } from "../api.js";

const AGAIN_MS = 1200;

export class Studies {
  constructor(bench) {
    this.bench = bench;
    this.store = bench.store;
    this.asked = 0;
    $("delicate").onclick = () => this.delicate();
    $("sweep").onsubmit = (event) => { event.preventDefault(); this.sweep(); };
    this.store.on("state", () => this.offer());
    this.store.on("adopted", () => this.clear());
  }

  // Another state: what was found belongs to the last one.
  clear() {
    this.asked++;
    $("study-state").textContent = "";
    $("study-found").replaceChildren();
  }

  offer() {
    const { document } = this.store, field = $("sweep-key"), chosen = field.value;
    const things = [...document.lights, ...document.cards].filter(({ place }) => place);
    field.replaceChildren(...things.map(({ key, name }) => new Option(name, key)));
    if (things.some(({ key }) => key === chosen)) field.value = chosen;
    $("studies").hidden = !things.length || !document.wishes?.length;
  }

  async delicate() {
    const mine = ++this.asked, address = this.store.addresses.delicate;
    $("study-state").textContent = "Looking how delicate it is…";
    $("study-found").replaceChildren();
    await this.until(mine, (first) => (first ? post(address, {}) : getJson(address)), ({ whole, rows }) => {
      if (!whole) return false;
      $("study-state").textContent = rows.length ? `The most delicate: ${rows[0].name}. Off by so much, something changes visibly:` : "Nothing that is moved a little changes what the wishes are about.";
      this.list(rows.map(({ name, words }) => ({ words: `${name}: ${words}` })));
      return true;
    });
  }

  async sweep() {
    const mine = ++this.asked;
    const asked = {
      key: $("sweep-key").value, span_cm: $("sweep-cm").valueAsNumber, span_deg: $("sweep-deg").valueAsNumber, variants: $("sweep-variants").valueAsNumber,
    };
    if (Object.values(asked).some((value) => Number.isNaN(value))) return;
    $("study-found").replaceChildren();
    const address = this.store.addresses.sweep, query = new URLSearchParams(Object.entries(asked).map(([name, value]) => [name, String(value)]));
    await this.until(mine, (first) => (first ? post(address, asked) : getJson(`${address}?${query}`)), ({ done, parts, found }) => {
      $("study-state").textContent = done < parts ? `Looked at ${Math.round((100 * done) / parts)} % of ${asked.variants} variants…` : `The best of ${asked.variants} variants:`;
      this.list(found.map((one) => ({ words: this.words(one), take: () => this.take(one) })));
      return done >= parts;
    });
  }

  // Ask, then look again until it is all there, unless something else was asked meanwhile.
  async until(mine, ask, show) {
    for (let first = true; mine === this.asked; first = false) {
      try {
        const found = await ask(first);
        if (mine !== this.asked || show(found)) return;
        if (found.workers === false) $("study-state").textContent = "Waits for a worker: start one with ./run worker.";
      } catch (error) {
        if (mine === this.asked) $("study-state").textContent = error.message;
        return;
      }
      await new Promise((done) => setTimeout(done, AGAIN_MS));
    }
  }

  list(rows) {
    $("study-found").replaceChildren(...rows.map(({ words, take }) => {
      const row = Object.assign(document.createElement("li"), { textContent: words });
      if (take) {
        const button = Object.assign(document.createElement("button"), { type: "button", className: "quiet", textContent: "Take" });
        button.onclick = take;
        row.append(" ", button);
      }
      return row;
    }));
  }

  words({ met, of, values }) {
    const { x_cm: x, y_cm: y, z_cm: z } = values.place;
    return `meets ${met} of ${of}: ${x} cm right, ${z} cm in front, ${y} cm high, turned ${values.turn_deg}°, tilted ${values.tilt_deg}°`;
  }

  take({ list, key, values }) {
    this.store.commit(Object.entries(values).map(([name, value]) => ({ path: [list, key, name], value })), "Best of the variants");
  }
}
