// The fields of one calculation: each with a step down and up for a thumb, and a mark that asks for it instead.
import { all, query, targetOf } from "../dom.js";

const LONG = 9; // letters that a field shows in full size

function fits(element, text) {
  if (element.value === text) return;
  element.value = text;
  element.dataset.long = String(text.length > LONG);
  if (element === document.activeElement && element.matches("input")) element.select();
}

export class Fields {
  /**
   * @param {HTMLElement} root
   * @param {{typed: (name: string, text: string) => void, step: (name: string, by: number) => void, solve: (name: string) => void}} told
   */
  constructor(root, told) {
    this.root = root;
    root.addEventListener("input", (event) => {
      const field = targetOf(event);
      if (field.matches("[data-value]")) told.typed(field.dataset.value, field.value);
    });
    root.addEventListener("change", (event) => {
      const chosen = targetOf(event);
      if (!chosen.matches("[data-adding]") || !chosen.value) return;
      const field = query(`[data-value="${chosen.dataset.adding}"]`, root);
      field.value = [field.value.trim().replace(/,$/, ""), chosen.value].filter(Boolean).join(", ");
      chosen.value = "";
      told.typed(field.dataset.value, field.value);
    });
    root.addEventListener("click", (event) => {
      const button = targetOf(event).closest("button");
      if (button?.dataset.step) told.step(button.dataset.of, Number(button.dataset.step));
      if (button?.dataset.solve) told.solve(button.dataset.solve);
    });
    root.addEventListener("keydown", (event) => {
      const field = targetOf(event), by = { ArrowUp: 1, ArrowDown: -1 }[event.key];
      if (!by || !field.matches("input[data-value]") || field.dataset.kind === "list") return;
      event.preventDefault();
      told.step(field.dataset.value, event.shiftKey ? 3 * by : by);
    });
    root.addEventListener("focusin", (event) => { if (targetOf(event).matches("input[data-value]")) targetOf(event).select(); });
  }

  show(one, unknown) {
    this.unknown = unknown;
    const idle = one.idle[unknown] ?? [];
    this.root.replaceChildren(...one.asks.filter((ask) => !idle.includes(ask.name)).map((ask) => this.#row(one, ask)));
  }

  #row(one, ask) {
    const row = document.createElement("div"), id = `reckon-${ask.name}`;
    row.className = "ask";
    row.dataset.ask = ask.name;
    const words = Object.assign(document.createElement("label"), { htmlFor: id, textContent: ask.words });
    const note = Object.assign(document.createElement("small"), { textContent: ask.note });
    note.dataset.note = ask.note;
    const field = ask.kind === "choice" ? choice(ask) : Object.assign(document.createElement("input"), { type: "text", autocomplete: "off", spellcheck: false });
    field.id = id;
    field.dataset.value = ask.name;
    field.dataset.kind = ask.kind;
    field.setAttribute("autocapitalize", "off");
    const parts = [words, note];
    if (one.unknowns.includes(ask.name)) parts.push(solve(ask, ask.name === this.unknown));
    if (ask.name === this.unknown) {
      row.classList.add("unknown");
      parts.push(Object.assign(document.createElement("output"), { id, className: "is" }));
    } else if (ask.kind === "number") parts.push(step(ask, -1), field, step(ask, 1));
    else {
      parts.push(field);
      if (ask.kind === "list" && ask.choices.length) parts.push(adding(ask));
    }
    row.append(...parts);
    return row;
  }

  /** The fields as an answer tells them; what is being typed stays as it is. */
  fill({ given = {}, shot = [], field = "", problem = "", gives = [] }, { typing = "" } = {}) {
    for (const row of all("[data-ask]", this.root)) {
      const name = row.dataset.ask, value = query("[data-value]", row);
      if (value && name in given && name !== typing) fits(value, given[name]);
      const is = query(".is", row), note = query("small", row), inShot = shot.includes(name);
      if (is) is.textContent = gives[0]?.text ?? "–";
      row.classList.toggle("wrong", Boolean(problem) && field === name);
      row.classList.toggle("in-shot", inShot);
      note.textContent = inShot ? "as in the shot" : note.dataset.note;
      value?.setAttribute("aria-invalid", problem && field === name ? "true" : "false");
    }
  }

  focus() { query("input[data-value]", this.root)?.focus(); }
}

function choice(ask) {
  const select = document.createElement("select");
  select.append(...ask.choices.map((word) => new Option(word, word)));
  return select;
}

function adding(ask) {
  const select = document.createElement("select");
  select.dataset.adding = ask.name;
  select.setAttribute("aria-label", `Add to ${ask.words}`);
  select.append(new Option("Add…", ""), ...ask.choices.map((word) => new Option(word, word)));
  return select;
}

function step(ask, by) {
  const button = Object.assign(document.createElement("button"), { type: "button", className: by < 0 ? "less" : "more", textContent: by < 0 ? "−" : "+" });
  button.dataset.step = String(by);
  button.dataset.of = ask.name;
  button.setAttribute("aria-label", `${ask.words}: ${by < 0 ? "less" : "more"}`);
  return button;
}

function solve(ask, pressed) {
  const button = Object.assign(document.createElement("button"), { type: "button", className: "solve", textContent: pressed ? "=" : "?" });
  button.dataset.solve = ask.name;
  button.title = pressed ? "This is asked for" : "Ask for this";
  button.setAttribute("aria-pressed", String(pressed));
  button.setAttribute("aria-label", `Ask for ${ask.words}`);
  return button;
}
