// The lights as a row of little pictures that add up to the frame, each with its switches and its rail of stops.
import { $, query } from "../dom.js";
import { apertureName, powerName, signedStops } from "./powers.js";
import { notchOf } from "./store.js";
import { element } from "./svg.js";

export class Lights {
  constructor(bench, box, template) {
    this.bench = bench;
    this.store = bench.store;
    this.store.on(["state", "alone"], () => this.show(this.store.state));
    this.store.on("light", (key) => {
      if (key === this.store.keyLight) for (const light of this.store.state.lights) this.update(light);
      else this.update(this.store.light(key));
      this.groups(this.store.state);
    });
    this.store.on("unit", () => { for (const light of this.store.state.lights) this.update(light); });
    this.store.on("selected", () => this.mark(this.store.selected));
    this.store.on("judged", () => this.judged(this.store.judged));
    this.box = box;
    this.template = template;
    this.cards = new Map();
  }

  show(state) {
    const keys = state.lights.map((light) => light.key);
    if (keys.join() !== [...this.cards.keys()].join()) this.rebuild(state.lights);
    for (const light of state.lights) this.update(light);
    this.groups(state);
    $("walk").setAttribute("aria-pressed", String(this.store.walking));
    this.mark(this.store.selected);
  }

  rebuild(lights) {
    this.cards = new Map();
    for (const light of lights) {
      const card = this.template.content.cloneNode(true).querySelector("article");
      const key = light.key;
      card.dataset.key = key;
      const part = (name) => query(`[data-do=${name}]`, card);
      part("select").onclick = () => this.store.select(this.store.selected === key ? "" : key);
      part("on").onclick = () => this.store.toggleLight(key);
      part("alone").onclick = () => this.store.showAlone(key);
      part("down").onclick = () => this.store.stepPower(key, -1);
      part("up").onclick = () => this.store.stepPower(key, 1);
      const rail = part("power");
      const stops = () => this.store.light(key).notches[Number(rail.value)].stops;
      rail.addEventListener("input", () => this.store.setPower(key, stops(), { keep: false }));
      rail.addEventListener("change", () => this.store.setPower(key, stops(), { keep: true }));
      query("canvas", card).onclick = () => this.store.select(key);
      query("header", card).addEventListener("pointerdown", (event) => this.carry(event, card));
      this.cards.set(key, card);
    }
    $("bench").classList.toggle("unlit", !lights.length); // where none stand, the drawings get their place
    if (lights.length) this.box.replaceChildren(...this.cards.values());
    else this.box.replaceChildren(Object.assign(document.createElement("p"), { className: "empty", textContent: "The lights will stand here in the order you build them, each with the picture it makes alone." }));
    this.pictures();
  }

  update(light) {
    const card = this.cards.get(light.key);
    if (!card) return;
    const notch = notchOf(light);
    const name = powerName(light.notches[notch]);
    query(".name", card).textContent = `${light.number} ${light.name}`;
    query(".name", card).title = `${light.name}: ${light.kind}`;
    const on = query("[data-do=on]", card), alone = query("[data-do=alone]", card);
    on.textContent = light.on ? "On" : "Off";
    on.setAttribute("aria-pressed", String(light.on));
    on.setAttribute("aria-label", `${light.name} ${light.on ? "on" : "off"}`);
    alone.setAttribute("aria-pressed", String(this.store.alone === light.key));
    alone.setAttribute("aria-label", `${light.name} alone`);
    query("[data-do=down]", card).setAttribute("aria-label", `Less of ${light.name}`);
    query("[data-do=up]", card).setAttribute("aria-label", `More of ${light.name}`);
    const rail = query(".rail", card);
    rail.max = light.notches.length - 1;
    this.notch(query(".notches", card), light);
    if (rail.value !== String(notch)) rail.value = notch;
    rail.setAttribute("aria-label", `Power of ${light.name}`);
    rail.setAttribute("aria-valuetext", name);
    query(".power", card).textContent = name;
    const over = this.store.overKey(light);
    query(".ratio", card).textContent = `${apertureName(this.store.apertureOf(light))}${over === null ? "" : light.key === this.store.keyLight ? " · key" : ` · ${over && signedStops(over) !== "0" ? signedStops(over) : "±0"}`}`;
    query(".ratio", card).title = "Metered at the product, towards this light, at its present power; stops against the key light";
    const warning = light.fault || light.warning;
    query(".power", card).title = warning;
    query(".light-note", card).textContent = warning;
    card.classList.toggle("warned", Boolean(warning));
    card.classList.toggle("off", !light.on);
    query("canvas", card).setAttribute("aria-label", `${light.name} alone`);
    query(".group", card).textContent = light.group;
    card.dataset.group = light.group;
    this.small(card, light);
  }

  // A light is carried to another place of the build order by its name.
  carry(event, card) {
    if (event.button !== 0) return;
    const begin = event.clientX, cards = [...this.cards.values()];
    const from = cards.indexOf(card), wide = card.getBoundingClientRect().width;
    let to = from;
    const move = (e) => {
      const by = e.clientX - begin;
      if (Math.abs(by) < 8 && !card.classList.contains("carried")) return;
      card.classList.add("carried");
      card.setPointerCapture(event.pointerId);
      card.style.transform = `translateX(${by}px)`;
      to = Math.max(0, Math.min(cards.length - 1, from + Math.round(by / wide)));
      cards.forEach((one, i) => one.classList.toggle("makes-room", i !== from && i === to));
    };
    const done = (e) => {
      removeEventListener("pointermove", move);
      removeEventListener("pointerup", done);
      removeEventListener("pointercancel", done);
      const carried = card.classList.contains("carried");
      card.classList.remove("carried");
      card.style.transform = "";
      for (const one of cards) one.classList.remove("makes-room");
      if (!carried) return;
      addEventListener("click", (click) => click.stopPropagation(), { capture: true, once: true });
      if (e.type === "pointerup" && to !== from) {
        this.store.commit([{ kind: "move", path: ["lights", card.dataset.key], value: to }], "Changed the build order");
      }
    };
    addEventListener("pointermove", move);
    addEventListener("pointerup", done);
    addEventListener("pointercancel", done);
  }

  // What each light's way takes, the weakest one, and the groups with switches of their own.
  judged({ chains, weakest, weakestKey }) {
    $("weakest").textContent = weakest ? `Light ${weakest}` : "";
    for (const [key, card] of this.cards) {
      const chain = chains[key];
      card.classList.toggle("weakest", key === weakestKey);
      query(".way", card).textContent = chain ? chain.parts.map(({ name, stops }) => `${name} ${stops}`).join(" → ") : "";
      query(".way", card).title = chain ? [...chain.parts.map(({ name, stops }) => `${name}: ${stops} stops at the product`), chain.full].join("\n") : "";
    }
  }

  groups(state) {
    const names = [...new Set(state.lights.map(({ group }) => group).filter(Boolean))];
    $("groups").replaceChildren(...names.map((name) => {
      const box = Object.assign(document.createElement("span"), { className: "group-box" });
      const on = state.lights.some((light) => light.group === name && light.on);
      const button = (text, label, act) => Object.assign(document.createElement("button"), { type: "button", textContent: text, ariaLabel: label, onclick: act });
      box.append(name, button(on ? "On" : "Off", `Group ${name} ${on ? "on" : "off"}`, () => this.store.switchGroup(name)),
        button("−", `Group ${name} one step down`, () => this.store.stepGroup(name, -1)), button("+", `Group ${name} one step up`, () => this.store.stepGroup(name, 1)));
      return box;
    }));
  }

  // The head's real notches under its rail, full stops longer.
  notch(svg, light) {
    const count = light.notches.length;
    if (svg.childElementCount === count) return;
    svg.setAttribute("viewBox", "0 0 100 9");
    svg.setAttribute("preserveAspectRatio", "none");
    svg.replaceChildren(...light.notches.map((notch, i) => {
      const full = Math.abs(notch.stops - Math.round(notch.stops)) < 1e-6;
      const x = (i / (count - 1)) * 100;
      return element("line", { x1: x, x2: x, y1: 1, y2: full ? 8 : 4, class: full ? "full" : "" });
    }));
  }

  // What a light makes by itself: of its layer, or, until that is there, a quick picture.
  async small(card, light) {
    const canvas = query("canvas", card), { mixer } = this.bench.frame;
    if (mixer.ready && mixer.layers.has(light.key)) {
      mixer.small(canvas, light.key, this.store.gainOf(light));
      delete card.dataset.quick;
      return;
    }
    const asked = `${this.store.state.layersKey} ${light.power}`;
    if (card.dataset.quick === asked) return;
    card.dataset.quick = asked;
    await (this.quick = this.quick?.catch(() => {}).then(() => this.fetchSmall(card, light, canvas, asked)) ?? this.fetchSmall(card, light, canvas, asked));
  }

  async fetchSmall(card, light, canvas, asked) {
    if (card.dataset.quick !== asked) return;
    try {
      const answer = await fetch(`${this.store.addresses["alone.jpg"]}?light=${encodeURIComponent(light.key)}`);
      if (answer.status !== 200) {
        delete card.dataset.quick; // asked for again with the next change
        return;
      }
      const bitmap = await createImageBitmap(await answer.blob());
      if (card.dataset.quick === asked) canvas.getContext("2d").drawImage(bitmap, 0, 0, canvas.width, canvas.height);
      bitmap.close();
    } catch { /* its layer comes in a moment */ }
  }

  pictures() {
    clearTimeout(this.timer);
    this.timer = setTimeout(() => {
      for (const light of this.store.state.lights) {
        const card = this.cards.get(light.key);
        if (card) this.small(card, light);
      }
    }, 20);
  }

  mark(key) {
    for (const [own, card] of this.cards) card.classList.toggle("selected", own === key);
  }
}
