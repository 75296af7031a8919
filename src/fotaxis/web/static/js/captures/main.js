// A shot's captures: the composite large, what it is made of below it, the chosen capture beside it. The server joins and develops;
// here is only shown, asked and drawn over.
import { $, all, query, targetOf } from "../dom.js";
import { getJson, post, Problem } from "../api.js";
import { Composite } from "./composite.js";
import { Hands } from "./hands.js";
import { text } from "./markup.js";
import { capturePanel, finishPanel, joinPanel, neededPanel, readsPanel, retouchPanel } from "./panels.js";

const json = (id) => JSON.parse($(id).textContent);

class Page {
  constructor() {
    this.state = json("state");
    this.addresses = json("addresses");
    this.choices = json("choices");
    this.key = this.state.captures[0]?.key ?? "";
    this.tab = new URLSearchParams(location.search).get("tab") ?? "one";
    this.needed = null;
    this.reads = null;
    this.working = Promise.resolve();
    this.composite = new Composite(this);
    this.hands = new Hands(this);
    document.addEventListener("click", (event) => this.pressed(event));
    document.addEventListener("change", (event) => this.changed(targetOf(event)));
    document.addEventListener("input", (event) => this.pulled(targetOf(event)));
    addEventListener("keydown", (event) => this.typed(event));
    this.own = null;
    this.turnTo(this.tab);
    this.draw();
    this.readOne();
  }

  /** The chosen capture. @returns {any} */
  get chosen() { return this.state.captures.find(({ key }) => key === this.key); }

  // ---- keeping

  /** Changes that are kept, one after the other; the answer is the state. @param {any[]} changes */
  commit(changes, label) {
    const sent = () => post(this.addresses.changes, { changes, label, seen: this.state.revision });
    return this.enqueue(sent);
  }

  set(fields, label) {
    if (!this.chosen) return;
    this.commit(Object.entries(fields).map(([name, value]) => ({ path: ["captures", this.key, name], value })), label);
  }

  enqueue(work) {
    $("saved").textContent = "saving…";
    this.working = this.working.then(work).then((state) => { this.adopt(state); }, (error) => {
      if (!(error instanceof Problem)) throw error;
      $("saved").textContent = error.message;
      return getJson(this.addresses.state).then((state) => { this.adopt(state, error.message); });
    });
    return this.working;
  }

  adopt(state, said = "saved") {
    this.state = state;
    if (!this.chosen) this.key = state.captures.at(-1)?.key ?? "";
    $("saved").textContent = said;
    this.reads = null;
    this.draw();
    this.readOne();
    document.body.dataset.revision = String(state.revision);
  }

  // ---- drawing

  draw() {
    const { captures } = this.state;
    $("empty-note").hidden = captures.length > 0;
    $("capture-list").innerHTML = captures.map((one, i) => `
      <li><button type="button" class="capture ${one.key === this.key ? "chosen" : ""} ${one.shown ? "" : "off"}" data-capture="${one.key}" aria-pressed="${one.key === this.key}">
        <img src="${one.picture}" alt="" width="88" height="110"><span class="capture-name">${i + 1} ${text(one.name)}</span>
        <span class="muted">${text(one.words)}</span><span class="joined">${text(one.shown ? one.joined : "left out")}${one.frame ? " · frame" : ""}</span></button></li>`).join("")
      + `<li class="strip-add"><button type="button" data-do="keep" title="The bench's present lights, powers and exposure as one more capture">Keep the bench's state</button></li>`;
    const crop = $("crop"), was = crop.value;
    crop.innerHTML = `<option value="">Whole frame</option>${this.state.crops.map((one, i) => `<option value="${i}">${text(one.name)} ${text(one.ratio)}</option>`).join("")}`;
    crop.value = was;
    $("undo").disabled = !this.state.undo;
    $("redo").disabled = !this.state.redo;
    this.panels();
    this.composite.show();
    this.hands.draw();
    document.body.dataset.revision = String(this.state.revision);
  }

  panels() {
    const open = document.activeElement?.id;
    $("panel-one").innerHTML = capturePanel(this);
    $("panel-join").innerHTML = joinPanel(this);
    $("panel-finish").innerHTML = finishPanel(this);
    $("panel-needed").innerHTML = neededPanel(this);
    $("panel-retouch").innerHTML = retouchPanel(this);
    $("reads").innerHTML = readsPanel(this);
    if (open) $(open)?.focus();
  }

  turnTo(tab) {
    this.tab = tab;
    for (const button of all("#side-work [role=tab]")) button.setAttribute("aria-selected", String(button.dataset.tab === tab));
    for (const panel of all("#side-work [role=tabpanel]")) panel.hidden = panel.id !== `panel-${tab}`;
    if (tab === "needed" && !this.needed) this.askNeeded(this.state.finish.school);
    if (tab === "out" && !this.reads) this.read();
  }

  choose(key) {
    this.key = key;
    this.draw();
    this.readOne();
  }

  /** What the chosen capture reads by itself, once the shot has readings. */
  async readOne() {
    const { key, state } = this;
    this.own = null;
    if (!key || !state.readings) return;
    const own = await getJson(`${this.addresses.captures}/${key}/readings`).catch(() => null);
    if (key !== this.key || state !== this.state) return;
    this.own = own;
    $("own-reads")?.replaceChildren(...(own?.readings ?? []).map(({ name, words }) => Object.assign(document.createElement("li"), { textContent: `${name}: ${words}` })));
  }

  async askNeeded(school) {
    this.needed = { waiting: true, school };
    this.panels();
    try { this.needed = await getJson(`${this.addresses.needed}?school=${encodeURIComponent(school)}`); } catch (error) {
      if (!(error instanceof Problem)) throw error;
      this.needed = { words: error.message, reasons: [], captures: [], school };
    }
    this.panels();
  }

  async read() {
    if (!this.state.captures.some(({ shown }) => shown)) return;
    try { this.reads = await getJson(this.addresses.readings); } catch (error) {
      if (!(error instanceof Problem)) throw error;
      this.reads = { readings: [], wishes: [], line: [error.message] };
    }
    this.panels();
  }

  // ---- hands

  pressed(event) {
    const button = targetOf(event).closest("button");
    if (!button) return;
    const { dataset } = button;
    if (dataset.tab) this.turnTo(dataset.tab);
    if (dataset.capture) this.choose(dataset.capture);
    if (button.id === "undo" || button.id === "redo") this.enqueue(() => post(this.addresses[button.id], {}));
    if (dataset.do) this.act(dataset.do, dataset);
  }

  /** @param {string} what @param {DOMStringMap} told */
  act(what, told) {
    const { captures } = this.state, at = captures.findIndex(({ key }) => key === this.key), one = this.chosen;
    const done = {
      keep: () => this.enqueue(async () => { const kept = await post(this.addresses.add, {}); this.key = kept.key; return getJson(this.addresses.state); }),
      "set-up": () => post(`${this.addresses.captures}/${this.key}/set-up`, {}).then(({ location: where }) => { location.href = where; }),
      "from-bench": () => this.enqueue(() => post(`${this.addresses.captures}/${this.key}/from-bench`, {})),
      remove: () => this.commit([{ kind: "remove", path: ["captures", this.key] }], `Removed ${one.name}`),
      earlier: () => this.commit([{ kind: "move", path: ["captures", this.key], value: Math.max(0, at - 1) }], "Changed the order of joining"),
      later: () => this.commit([{ kind: "move", path: ["captures", this.key], value: at + 1 }], "Changed the order of joining"),
      "add-part": () => this.set({ mask: [...one.mask, { kind: "scene", area: "product", feather_mm: 2 }] }, "Added to the mask"),
      "remove-part": () => this.set({ mask: one.mask.filter((_, i) => i !== Number(told.part)) }, "Took a part off the mask"),
      "no-mask": () => this.set({ mask: [] }, "Took the mask away"),
      school: () => this.askNeeded(told.school),
      take: () => this.enqueue(() => post(this.addresses.needed, { school: this.needed.school, instead: told.instead === "yes" })),
      "remove-spot": () => this.commit([{ kind: "remove", path: ["retouch", told.key] }], "Took a mark away"),
    }[what];
    if (done) done();
  }

  changed(field) {
    const { name, value, checked, dataset } = field, part = field.closest("[data-part]")?.dataset.part;
    if (field.id === "crop") { this.hands.draw(); return; }
    if (field.id === "frame-file") { this.attach(field.files[0]); return; }
    if (dataset.spot) {
      this.commit([{ path: ["retouch", dataset.spot, name], value: field.type === "checkbox" ? checked : value }], "Changed a mark");
      return;
    }
    const owner = field.closest("#panel-one, #panel-join, #panel-finish");
    if (!owner || !name) return;
    const kept = field.type === "checkbox" ? checked : dataset.number !== undefined ? Number(value.replace(",", ".").replace("−", "-")) : value;
    if (dataset.number !== undefined && (value === "" || Number.isNaN(kept))) {
      if (dataset.number !== "none" || value !== "") { $("saved").textContent = `${value || "Nothing"} is no number; nothing was changed.`; return; }
      this.keepField(owner, name, null, part);
      return;
    }
    this.keepField(owner, name, kept, part);
  }

  keepField(owner, name, value, part) {
    if (owner.id === "panel-finish") {
      const place = name in this.state.shooting ? "shooting" : "finish";
      this.commit([{ path: [place, name], value }], "Changed the finish");
    } else if (name === "scene") {
      const zone = String(value).startsWith("zone:") ? String(value).slice(5) : "";
      this.setPart(Number(part), zone ? { area: "zone", zone } : { area: value, zone: "" });
    } else if (part !== undefined) this.setPart(Number(part), { [name]: value });
    else if (name.startsWith("light:")) this.switchLight(name.slice(6), value);
    else if (name.startsWith("power:")) this.set({ lights: { ...this.chosen.lights, [name.slice(6)]: value } }, "Power of a capture");
    else if (name.startsWith("away:")) {
      const key = name.slice(5), others = this.chosen.away.filter((one) => one !== key);
      this.set({ away: value ? [...others, key] : others }, value ? "Lifted away" : "Put back");
    } else if (name === "polariser_on") this.set({ polariser_deg: value ? 0 : null }, "Polariser of a capture");
    else if (name.startsWith("after:")) {
      const key = name.slice(6), others = this.chosen.after.filter((one) => one !== key);
      this.set({ after: value ? [...others, key] : others }, "Order of the shoot");
    } else this.set({ [name]: value }, `${this.chosen?.name}: ${name.replace("_", " ")}`);
  }

  setPart(number, fields) {
    const mask = this.chosen.mask.map((one, i) => (i === number ? { ...one, ...fields } : one));
    this.set({ mask }, "Changed the mask");
  }

  switchLight(key, on) {
    const { [key]: before, ...others } = this.chosen.lights;
    const own = this.state.captures.find((one) => key in one.lights)?.lights[key];
    this.set({ lights: on ? { ...others, [key]: before ?? own ?? -4 } : others }, `${on ? "On" : "Off"} in ${this.chosen.name}`);
  }

  /** A slider that is pulled shows at once what it would do. */
  pulled(field) {
    if (field.type !== "range" || !field.name || !this.chosen) return;
    const owner = field.closest("#panel-one, #panel-join, #panel-finish");
    if (!owner) return;
    const value = Number(field.value), part = field.closest("[data-part]")?.dataset.part;
    const output = field.parentElement.querySelector("output");
    if (output) output.textContent = field.dataset.unit ? `${value} ${field.dataset.unit}` : String(value);
    const path = owner.id === "panel-finish" ? ["finish", field.name] : ["captures", this.key, part === undefined ? field.name : "mask"];
    const tried = part === undefined ? value : this.chosen.mask.map((one, i) => (i === Number(part) ? { ...one, [field.name]: value } : one));
    this.composite.preview([{ path, value: tried }]);
  }

  async attach(file) {
    if (!file) return;
    const form = new FormData();
    form.append("file", file);
    await this.enqueue(() => post(`${this.addresses.captures}/${this.key}/frame`, form));
  }

  typed(event) {
    const typing = targetOf(event).closest?.("input:not([type=range]):not([type=checkbox]), textarea, select");
    if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === "z" && !typing) {
      event.preventDefault();
      this.enqueue(() => post(this.addresses[event.shiftKey ? "redo" : "undo"], {}));
      return;
    }
    if (typing || event.ctrlKey || event.metaKey) return;
    const keys = this.state.captures.map(({ key }) => key);
    const done = {
      m: () => query("#show-mask").click(), a: () => query("#show-one").click(), b: () => query("#brush").click(),
      g: () => query("#gradient").click(), r: () => query("#spot-tool").click(),
      o: () => this.chosen && this.set({ shown: !this.chosen.shown }, "In or out of the composite"),
      escape: () => this.hands.turn(""),
    }[event.key.toLowerCase()];
    if (done) { event.preventDefault(); done(); }
    if (/^[1-9]$/.test(event.key) && keys[Number(event.key) - 1]) this.choose(keys[Number(event.key) - 1]);
  }
}

new Page();
