// The reckoner itself: a list to find in, one calculation with its fields, its answer in big figures. On a page of its own and on the
// bench it is the same.
import { all, query, targetOf } from "../dom.js";
import { drawn } from "./drawing.js";
import { found } from "./finding.js";
import { NoAnswer } from "./asking.js";
import { Fields } from "./fields.js";

/** @typedef {import("./asking.js").Asking} Asking @typedef {import("./memory.js").Memory} Memory */

export class Panel {
  #asked = 0;
  #told = null;
  #steps = Promise.resolve();

  /**
   * @param {HTMLElement} root
   * @param {{calculations: any[], asking: Asking, memory: Memory, inches: () => boolean, chosen?: (key: string) => void,
   *   into?: (what: "set" | "sheet") => void, off?: (kept: any) => void}} around
   */
  constructor(root, around) {
    this.root = root;
    this.around = around;
    this.memory = around.memory;
    this.numbers = {};
    this.takeable = [];
    this.one = null;
    this.fields = new Fields(this.part("asks"), { typed: (name, text) => this.typed(name, text), step: (name, by) => this.step(name, by), solve: (name) => this.solve(name) });
    this.part("find").addEventListener("input", () => this.list());
    this.part("find").addEventListener("keydown", (event) => this.#findKeys(event));
    this.part("found").addEventListener("click", (event) => {
      const key = targetOf(event).closest("[data-key]")?.dataset.key;
      if (key) this.open(key);
    });
    this.part("all").addEventListener("click", () => this.close());
    this.part("again").addEventListener("click", () => this.forget());
    this.part("take").addEventListener("click", () => this.take("set"));
    this.part("sheet").addEventListener("click", () => this.take("sheet"));
    root.addEventListener("keydown", (event) => {
      if (event.key !== "Enter" || targetOf(event).closest("[data-find], button, summary, select")) return;
      event.preventDefault();
      if (!this.part("take").hidden) this.take("set");
    });
    this.list();
  }

  part(name) { return query(`[data-${name}]`, this.root); }

  // ---- the list

  list() {
    const typed = this.part("find").value, those = found(this.around.calculations, typed);
    const rows = [];
    let group = "";
    for (const one of those) {
      if (!typed && one.group !== group) rows.push(Object.assign(document.createElement("li"), { className: "group", textContent: one.group }));
      group = one.group;
      const row = document.createElement("li"), button = document.createElement("button");
      button.type = "button";
      button.dataset.key = one.key;
      button.textContent = one.name;
      button.title = one.words;
      if (one.key === this.one?.key) button.setAttribute("aria-current", "true");
      row.append(button);
      rows.push(row);
    }
    this.part("found").replaceChildren(...rows);
    this.part("none").hidden = those.length > 0;
  }

  #findKeys(event) {
    const rows = all("[data-key]", this.part("found"));
    if (event.key === "Enter" && rows.length) {
      event.preventDefault();
      event.stopPropagation();
      this.openFound();
    } else if (event.key === "ArrowDown" && rows.length) {
      event.preventDefault();
      rows[0].focus();
    }
  }

  /** Open what is found first, its first field in hand. */
  openFound() {
    this.list();
    const [first] = all("[data-key]", this.part("found"));
    if (!first) return;
    this.open(first.dataset.key);
    this.fields.focus();
  }

  find() {
    this.close();
    this.part("find").focus();
    this.part("find").select();
  }

  close() {
    this.root.dataset.open = "";
    this.list();
  }

  /** @param {string} key @param {{texts: Record<string, string>, unknown: string}} [sheet] as it stands on the sheet; else as typed last */
  open(key, sheet = undefined) {
    const one = this.around.calculations.find((calculation) => calculation.key === key);
    if (!one) { this.close(); return; }
    this.one = one;
    this.root.dataset.open = one.key;
    this.part("name").textContent = one.name;
    for (const name of ["words", "formula", "limits", "source"]) this.part(name).textContent = one[name];
    const kept = sheet ?? this.memory.of(key);
    this.texts = { ...kept.texts };
    this.unknown = one.unknowns.includes(kept.unknown) ? kept.unknown : one.unknowns[0];
    this.#told = null;
    this.fields.show(one, this.unknown);
    this.part("picture").hidden = true;
    this.list();
    this.around.chosen?.(key);
    this.part("one").scrollTop = 0;
    return this.ask();
  }

  // ---- one calculation

  /** The numbers of a shot have come, or have changed. */
  about({ numbers, takeable = [], reckoned = [] }) {
    this.numbers = numbers;
    this.part("kept").hidden = !reckoned.length;
    this.part("kept-list").replaceChildren(...reckoned.map((one) => this.#kept(one)));
    this.takeable = takeable;
    this.part("again").textContent = "As in the shot";
    if (this.one) this.ask();
  }

  #kept(one) {
    const row = document.createElement("li"), opens = document.createElement("button"), away = document.createElement("button");
    opens.type = away.type = "button";
    opens.textContent = one.name;
    opens.addEventListener("click", () => this.open(one.calculation, one));
    away.textContent = "Take off";
    away.setAttribute("aria-label", `Take ${one.name} off the sheet`);
    away.addEventListener("click", () => this.around.off?.(one));
    row.append(opens, Object.assign(document.createElement("span"), { textContent: one.gives }), away);
    return row;
  }

  typed(name, text) {
    if (text.trim() === "?" && this.one.unknowns.includes(name)) { this.solve(name); return; }
    this.texts[name] = text;
    this.ask({ typing: name });
  }

  /** One press after the other, however fast they come. */
  step(name, by) { this.#steps = this.#steps.then(() => this.ask({ step: [name, by] })); }

  /** Ask for another unknown: the one before is then known, as it was answered. */
  solve(name) {
    if (name === this.unknown) return;
    const before = this.#told?.gives?.[0];
    if (before) this.texts[before.name] = before.text === "∞" ? "" : before.text;
    delete this.texts[name];
    this.unknown = name;
    this.fields.show(this.one, name);
    this.ask();
  }

  /** In other units: what was typed stays what it is, read once more as it was understood. */
  reread() {
    for (const [name, text] of Object.entries(this.#told?.reads ?? {})) if (name in this.texts && this.texts[name]) this.texts[name] = text;
    this.ask();
  }

  forget() {
    this.texts = {};
    this.fields.show(this.one, this.unknown);
    this.ask();
  }

  /** @param {{step?: [string, number], typing?: string}} [by] what is moved a step, or being typed */
  async ask({ step, typing } = {}) {
    const { one, unknown } = this, number = ++this.#asked, began = performance.now();
    const question = { key: one.key, texts: this.texts, unknown, inches: this.around.inches(), shot: this.numbers, ...(step ? { step } : {}) };
    let told;
    try { told = await this.around.asking.answer(question); } catch (error) {
      if (!(error instanceof NoAnswer)) throw error;
      told = { problem: error.message };
    }
    if (number !== this.#asked || one !== this.one) return;
    if (step && !told.problem) this.texts[step[0]] = told.given[step[0]];
    this.memory.keep(one.key, { texts: this.texts, unknown });
    this.#show(told, typing);
    this.root.dataset.took = String(Math.round(performance.now() - began));
  }

  #show(told, typing) {
    const [first, ...others] = told.gives ?? [];
    if (!told.problem) this.#told = told;
    this.part("what").textContent = this.one.asks.find((ask) => ask.name === this.unknown).words;
    this.part("figure").textContent = first?.text ?? "–";
    this.part("figure").dataset.long = String((first?.text ?? "").length > 8);
    this.part("finer").textContent = first?.finer ? `exactly ${first.finer}` : "";
    this.part("problem").hidden = !told.problem;
    this.part("problem").textContent = told.problem || "";
    this.part("gives").replaceChildren(...others.map((give) => {
      const row = document.createElement("div");
      row.append(Object.assign(document.createElement("dt"), { textContent: give.words }), Object.assign(document.createElement("dd"), { textContent: give.text }));
      if (give.finer) query("dd", row).title = give.finer;
      return row;
    }));
    const lines = (texts) => texts.map((text) => Object.assign(document.createElement("li"), { textContent: text }));
    this.part("says").replaceChildren(...lines(told.says ?? []));
    this.part("cautions").replaceChildren(...lines(told.cautions ?? []));
    this.part("picture").hidden = !told.picture;
    if (told.picture) this.part("picture").replaceChildren(drawn(told.picture), Object.assign(document.createElement("figcaption"), { textContent: told.picture.words }));
    this.fields.fill(told, { typing });
    this.#offer(told);
  }

  // What may be taken: what it gives, and what it was given that is not as in the shot.
  #offer(told) {
    const can = (name) => name && this.takeable.includes(name);
    const given = this.one.asks.some((ask) => ask.name in (told.given ?? {}) && ask.taken && can(ask.shot) && !told.shot?.includes(ask.name));
    this.part("take").hidden = Boolean(told.problem) || !this.around.into || !((told.gives ?? []).some((give) => can(give.shot)) || given);
    this.part("sheet").hidden = Boolean(told.problem) || !this.around.into || !this.takeable.length;
  }

  /** @param {"set" | "sheet"} what */
  take(what) { this.around.into?.(what); }
}
