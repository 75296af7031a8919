// What the picture must show: a list that stands where nothing is chosen, each wish met or open, and the powers that meet them.
import { $, query } from "../dom.js";
import { mark } from "./readings.js";

const SIGNS = { met: "✓", open: "○", contradicted: "×", "not seen": "–" };
const WHOLE = "";

export class Wishes {
  constructor(bench, kinds) {
    this.bench = bench;
    this.store = bench.store;
    this.kinds = kinds;
    this.opened = "";
    this.store.on(["state", "judged", "selected"], () => this.show());
    $("wish-set").onchange = ({ target }) => {
      const { value } = target;
      target.value = "";
      if (value) this.store.addWishes(value);
    };
    $("balance").onclick = () => this.balance();
    $("wish-reading").onchange = () => this.offer();
    $("add-wish").onsubmit = (event) => { event.preventDefault(); this.add(); };
    $("wish-list").addEventListener("change", (event) => this.changed(event));
    $("wish-list").addEventListener("click", ({ target }) => {
      const key = /** @type {HTMLElement} */ (target).dataset.remove;
      if (key) this.store.commit([{ kind: "remove", path: ["wishes", key] }], "Removed a wish");
    });
  }

  get all() { return this.store.document.wishes ?? []; }

  balance() {
    if (this.all.length) this.store.balance();
    else this.store.note("No wish yet: choose ready-made ones, or mark one on the frame.");
  }

  // Ways for the first wish that is not met.
  nextOpen() {
    const told = (this.store.judged?.wishes ?? []).find(({ key, state }) => state !== "met" && this.all.some((one) => one.key === key && one.kind !== "ratio"));
    if (!told) {
      this.store.note(this.all.length ? "Every wish is met, or waits for powers only: L balances them." : "No wish yet: choose ready-made ones, or mark one on the frame.");
      return;
    }
    if (this.store.selected) this.store.select("");
    this.bench.ways.open(told.key, `${told.about}: ${told.wanted}`);
  }

  show() {
    const { store } = this, judged = store.judged?.wishes ?? [];
    this.onFrame(judged);
    $("wishes").hidden = Boolean(store.thing());
    if ($("wishes").hidden) return;
    const met = judged.filter(({ state }) => state === "met").length;
    $("wishes-met").textContent = this.all.length ? `${met} of ${this.all.length} met` : "none yet";
    const focus = /** @type {HTMLElement | null} */ (document.activeElement);
    if (!focus?.matches("#wish-list input, #wish-list select")) {
      $("wish-list").replaceChildren(...this.all.map((wish) => this.row(wish, judged.find(({ key }) => key === wish.key))));
    }
    const { words = [], touches = 0 } = store.judged?.balance ?? {};
    $("balance-words").replaceChildren(...words.map((said) => Object.assign(document.createElement("li"), { textContent: said })));
    $("balance").textContent = touches ? `Balance: ${touches} ${touches === 1 ? "head" : "heads"}` : "Balance";
    $("balance").classList.toggle("main", touches > 0);
    this.held();
    this.offer();
  }

  // In few words on the frame, for what is chosen or dragged has the middle of the bench.
  onFrame(told) {
    const list = $("frame-wishes");
    list.hidden = !told.length || !this.store.selected;
    if (list.hidden) return;
    list.replaceChildren(...told.map(({ about, state, figure }) => {
      const row = Object.assign(document.createElement("li"), { textContent: `${SIGNS[state] ?? "?"} ${about} ${figure}` });
      row.dataset.state = state;
      row.setAttribute("aria-label", `${about}: ${state}, ${figure}`);
      return row;
    }));
  }

  row(wish, told) {
    const row = document.createElement("li"), kind = this.kinds[wish.kind];
    row.dataset.key = wish.key;
    row.dataset.state = told?.state ?? "";
    const part = (name, text, className = "") => {
      const made = Object.assign(document.createElement(name), { textContent: text, className });
      row.append(made);
      return made;
    };
    part("b", told?.state ?? "…", "wish-state");
    const about = part("button", `${told?.about ?? wish.reading}: ${told?.wanted ?? "…"}`, "quiet wish-about");
    Object.assign(about, { type: "button", title: "What is wished for", onclick: () => { this.opened = this.opened === wish.key ? "" : wish.key; this.show(); } });
    about.setAttribute("aria-expanded", String(this.opened === wish.key));
    about.disabled = !kind.fields.length;
    part("span", told?.words ?? "", "wish-words");
    if (wish.kind !== "ratio") {
      const ways = part("button", "Ways", "quiet wish-put");
      Object.assign(ways, { type: "button", title: "Ways to meet it, the best first, with reasons and pictures" });
      ways.setAttribute("aria-label", `Ways to meet the wish about ${told?.about ?? wish.reading}`);
      ways.onclick = () => this.bench.ways.open(wish.key, `${told?.about ?? ""}: ${told?.wanted ?? ""}`);
    }
    const remove = part("button", "×", "quiet");
    Object.assign(remove, { type: "button", title: "Remove this wish" });
    remove.dataset.remove = wish.key;
    remove.setAttribute("aria-label", `Remove the wish about ${told?.about ?? wish.reading}`);
    if (this.opened === wish.key) {
      const fields = part("span", "", "wish-fields");
      for (const field of kind.fields) fields.append(this.field(wish, field));
    }
    return row;
  }

  field(wish, { name, words, unit, low, high, step, choices }) {
    const label = document.createElement("label");
    label.textContent = `${words} `;
    const made = document.createElement(choices ? "select" : "input");
    if (choices) made.append(...choices.map((choice) => new Option(choice, choice)));
    else Object.assign(made, { type: "number", min: low, max: high, step });
    made.value = String(wish[name]);
    Object.assign(made.dataset, { wish: wish.key, name });
    made.setAttribute("aria-label", `${words}${unit ? `, ${unit}` : ""}`);
    label.append(made);
    if (unit === "stops") label.append(" stops");
    return label;
  }

  changed({ target }) {
    const { wish: key, name } = target.dataset;
    if (!key) return;
    const value = target.type === "number" ? target.valueAsNumber : target.value;
    if (!Number.isNaN(value)) this.store.commit([{ path: ["wishes", key, name], value }], "Changed a wish");
  }

  // Lights whose power a balance leaves alone.
  held() {
    const { store } = this, held = store.document.held ?? [];
    $("held").hidden = !store.document.lights.length;
    query("span", $("held")).replaceChildren(...store.state.lights.map((light) => {
      const on = held.includes(light.key), chip = document.createElement("button");
      Object.assign(chip, { type: "button", className: "quiet", textContent: `${light.number} ${light.name}` });
      chip.setAttribute("aria-pressed", String(on));
      chip.onclick = () => store.commit(
        [{ path: ["held"], value: on ? held.filter((key) => key !== light.key) : [...held, light.key] }], on ? `${light.name} may be set` : `${light.name} stays`,
      );
      return chip;
    }));
  }

  // ---- one more

  offer() {
    const { readings } = this.store, reading = $("wish-reading"), chosen = reading.value;
    reading.replaceChildren(...readings.map((one, i) => new Option(`${mark(i)} ${one.name}`, one.key)), new Option("the whole picture", WHOLE));
    if ([...reading.options].some(({ value }) => value === chosen)) reading.value = chosen;
    const of = readings.find(({ key }) => key === reading.value), was = $("wish-kind").value;
    const fitting = Object.entries(this.kinds).filter(([, kind]) => (of ? kind.readings.includes(of.kind) : !kind.refs.length));
    $("wish-kind").replaceChildren(...fitting.flatMap(([key, kind]) => {
      if (!kind.refs.length) return kind.fields[0].choices.map((choice) => new Option(`${kind.add}: ${choice}`, `${key} ${choice}`));
      if (kind.refs.length < 2) return [new Option(kind.add, key)];
      return readings.filter((one) => one.key !== of.key && kind.readings.includes(one.kind)).map((one) => new Option(`Against ${one.name}`, `${key} ${one.key}`));
    }));
    if ([...$("wish-kind").options].some(({ value }) => value === was)) $("wish-kind").value = was;
  }

  // A level is begun as it is now, in thirds: what is there is often what is wished to stay.
  add() {
    const [kind, ...rest] = $("wish-kind").value.split(" "), reading = $("wish-reading").value, over = rest.join(" ");
    if (reading === WHOLE) {
      const what = over, key = `no-${what.replaceAll(" ", "-")}`;
      if (!this.all.some((one) => one.key === key)) this.store.commit([{ kind: "add", path: ["wishes"], value: { kind, key, what } }], "Added a wish");
      return;
    }
    let key = `${reading}-${kind}`.slice(0, 50);
    while (this.all.some((one) => one.key === key)) key = `${key}-b`;
    const now = this.store.judged?.readings.find((one) => one.key === reading)?.level;
    const level = kind === "level" && typeof now === "number" ? { stops: Math.max(-16, Math.min(8, Math.round(now * 3) / 3)) } : {};
    const value = { kind, key, reading, ...(over ? { over } : {}), ...level };
    if ("stops" in value) value.stops = Math.round(value.stops * 100) / 100;
    this.store.commit([{ kind: "add", path: ["wishes"], value }], "Added a wish");
  }
}
