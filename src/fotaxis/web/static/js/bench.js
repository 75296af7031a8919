// The bench: keeps the state the server gave, asks for changes, and lets drawings, lights and frame follow it.
import { getJson, onWaiting, Overtaken, post, Problem } from "./api.js";
import { Adding } from "./adding.js";
import { ClientLinks } from "./clientlink.js";
import { Drawings } from "./drawings.js";
import { FrameLine } from "./frameline.js";
import { Lights } from "./lights.js";
import { bindFields, fillFields, reach, showParts, unitOf } from "./fields.js";
import { bindKeys } from "./keys.js";
import { People } from "./people.js";
import { Picture } from "./picture.js";
import { Powers } from "./powers.js";
import { Probe } from "./probe.js";
import { ProductForm } from "./product.js";
import { Readings } from "./readings.js";
import { line } from "./saving.js";
import { States } from "./states.js";
import { TapeRow } from "./tape.js";
import "./tabs.js";

const $ = (id) => document.getElementById(id);

export class Bench {
  constructor() {
    this.state = JSON.parse($("state").textContent);
    this.addresses = JSON.parse($("addresses").textContent);
    this.selected = "";
    this.known = structuredClone(this.state.document); // as the server gave it; previews change the other one
    this.ours = new Map(); // what is on its way to be kept
    this.judged = null;
    this.tapeEnds = null;
    this.unit = localStorage.getItem("fotaxis-unit") === "in" ? "in" : "cm";
    document.body.dataset.unit = this.unit;
    this.product = new ProductForm(this);
    this.working = Promise.resolve();
    this.pending = 0;
    this.people = new People(this);
    this.picture = new Picture(this);
    this.drawings = new Drawings(this, $("floor"), $("side"));
    this.lights = new Lights(this, $("lights"), $("light-template"));
    this.powers = new Powers(this);
    this.tape = new TapeRow(this, $("tape"));
    this.readings = new Readings(this);
    this.compare = new States(this);
    this.adding = new Adding(this, $("adding"));
    this.probe = new Probe(this, $("frame"), $("spot"));
    this.frameLine = new FrameLine(this, $("frame-over"), $("frame"));
    this.picture.begin();
    bindFields(this, document);
    bindKeys(this);
    this.bindButtons();
    addEventListener("resize", () => this.refresh());
    this.showUnit();
    this.show();
    this.refresh(); // the drawings in this window's size
    this.readings.ask();
    this.picture.bring();
  }

  // ---- the state

  get document() { return this.state.document; }

  thing(key = this.selected) {
    if (key === "camera") return { list: "camera", thing: this.document.camera };
    for (const list of ["lights", "cards", "others"]) {
      const found = this.document[list]?.find((thing) => thing.key === key);
      if (found) return { list, thing: found };
    }
    return null;
  }

  view() {
    const box = $("floor");
    return {
      width: Math.max(100, Math.round(box.clientWidth || 380)), height: Math.max(100, Math.round(box.clientHeight || 288)),
      selected: this.selected, fit: this.state.fit ?? null, unit: this.unit, tape: this.tapeEnds,
    };
  }

  // Queue one change after the other; the newest answer is the state. Each says what stood in its place when it was made, so that
  // what somebody else has set there meanwhile is not overwritten unseen.
  commit(changes, label) {
    const seen = this.state.revision;
    const said = changes.map((change) => {
      const at = change.path.join("."), was = this.ours.has(at) ? this.ours.get(at) : reachOrNothing(this.known, change.path);
      if ((change.kind ?? "set") !== "set" || was === undefined) return change;
      this.ours.set(at, change.value);
      return { ...change, was };
    });
    const ask = (more) => post(this.addresses.changes, { changes: said, label, view: { ...this.view(), fit: null }, ...more });
    const again = () => this.enqueue(() => ask({}));
    return this.enqueue(() => ask({ seen }), { again });
  }

  enqueue(work, { again } = {}) {
    this.pending++;
    this.changing();
    if (!line.reachable) this.note("The server cannot be reached. This waits here and is saved when it answers again.");
    this.working = this.working.then(work).then(
      (state) => { this.pending--; this.adopt(state); return state; },
      (error) => { this.pending--; this.failed(error, again); },
    );
    return this.working;
  }

  changing() { $("saved").textContent = this.waits ? `${this.waits}: ${this.pending} waiting` : "saving…"; }

  // The save under way waits: the server is away or busy, or nobody is signed in.
  waiting(words) {
    const changed = this.waits !== words;
    this.waits = words;
    if (this.pending) this.changing();
    if (!changed) return;
    if (words === "signed out") this.hold("You are signed out. Sign in again in another tab; then what you changed here is saved.");
    else if (words === "offline") this.hold("The server cannot be reached. What you change waits here and is saved when it answers again.");
    else if (!words) this.hold("");
  }

  failed(error, again) {
    if (!(error instanceof Problem)) throw error;
    $("saved").textContent = "not saved";
    this.ours.clear();
    if (error instanceof Overtaken) {
      this.hold(error.message, again && { words: "Set mine all the same", act: again });
    } else this.note(error.message);
    this.show();
    this.refresh();
    this.picture.bring();
  }

  adopt(state) {
    if (state.selected) this.selected = state.selected;
    this.state = state;
    this.known = structuredClone(state.document);
    if (this.pending === 0) this.ours.clear();
    if (!this.thing() && this.selected) this.selected = "";
    this.put(this.nudged?.values() ?? []); // an older change's answer knows nothing of what keys have moved since
    this.powers.keepHeld();
    if (this.pending === 0) {
      if (!this.nudged && !this.powers.held) $("saved").textContent = "saved";
      this.note(state.note ?? "");
      this.show();
    }
    this.picture.bring();
    this.picture.reread();
    this.readings.ask();
    this.compare.changed();
  }

  // The shot has changed in another window: this one follows, unless a hand here holds something or has newer work under way.
  elsewhere(number) {
    if (number === this.state.revision || this.pending > 0) return;
    if (this.holds()) setTimeout(() => this.elsewhere(number), 500);
    else this.refresh();
  }

  note(text) {
    const shown = text || this.held?.text || this.state.exposure.fault;
    $("frame-note").textContent = shown;
    if (!text && this.held?.action) {
      const button = Object.assign(document.createElement("button"), { type: "button", textContent: this.held.action.words });
      const { act } = this.held.action;
      button.onclick = () => { this.hold(""); act(); };
      $("frame-note").append(" ", button);
    }
    $("frame-note").hidden = !shown;
  }

  // A note that stays until it is answered, or something else takes its place.
  hold(text, action) {
    this.held = text ? { text, action } : null;
    clearTimeout(this.heldTimer);
    if (action) this.heldTimer = setTimeout(() => this.hold(""), 30000);
    this.note("");
  }

  show() {
    document.body.dataset.revision = this.state.revision;
    this.drawings.show(this.state);
    this.lights.show(this.state);
    this.frameLine.show(this.document.reading_line);
    fillFields(document, this.state);
    this.tape.show();
    this.readings.show();
    this.tape.between(this.state.tape);
    const { undo, redo, exposure } = this.state;
    this.people.show();
    $("undo").disabled = !undo;
    $("redo").disabled = !redo;
    $("undo").title = undo ? `Undo: ${undo} (Ctrl+Z)` : "Nothing to undo";
    $("redo").title = redo ? `Redo: ${redo} (Ctrl+Shift+Z)` : "Nothing to redo";
    $("metered").textContent = exposure.over ? `${exposure.metered}, ${exposure.over}` : exposure.metered;
    $("metered-how").textContent = exposure.meteredHow;
    $("black-short").textContent = exposure.blackHolds === false ? "Black frame: fails" : exposure.blackHolds ? "Black frame: holds" : "Black frame: just holds";
    $("black-long").textContent = exposure.black;
    $("black").title = exposure.black;
    $("black").classList.toggle("bad", exposure.blackHolds === false);
    if (exposure.fault) this.note("");
    $("background-words").textContent = this.state.background;
    $("lens-words").textContent = exposure.lens;
    showParts(document, this.document);
    for (const part of document.querySelectorAll("[data-focus]")) part.hidden = this.document.lens.focus !== "distance";
    for (const part of document.querySelectorAll("[data-surface]")) part.hidden = part.dataset.surface !== this.document.table?.surface;
  }

  // Something is moved or set here that the server does not know yet: its state would undo it on the screen.
  holds() { return this.picture.dragging || this.nudged || this.powers.held; }

  async refresh() {
    clearTimeout(this.refreshing);
    this.refreshing = setTimeout(async () => {
      const asked = this.asked = {};
      const { width, height, selected, unit, tape } = this.view();
      const ends = (tape ?? []).map((key) => `&tape=${encodeURIComponent(key)}`).join("");
      try {
        const state = await getJson(`${this.addresses.state}?width=${width}&height=${height}&selected=${encodeURIComponent(selected)}&unit=${unit}${ends}`);
        if (this.pending > 0 || this.holds() || asked !== this.asked) return;
        if (state.revision !== this.state.revision) this.adopt(state);
        else { this.state = state; this.show(); }
      } catch (error) {
        if (!(error instanceof Problem)) throw error;
        this.note(error.message); // when the line stands again, the bench asks again
      }
    }, 30);
  }

  select(key) {
    this.selected = key;
    this.people.hold(key);
    this.drawings.mark(key);
    this.lights.mark(key);
    this.tape.show();
    this.readings.histogram();
    this.refresh();
  }

  // ---- lights

  light(key) { return this.state.lights.find((light) => light.key === key); }

  mirror() {
    const found = this.thing();
    if (!found?.thing.place) return;
    if (found.thing.pair) this.note(`${found.thing.name} is one of a pair already; Unlink parts them.`);
    else this.enqueue(() => post(this.addresses.mirror, { key: found.thing.key, view: this.view() }));
  }

  reorder(by) {
    const found = this.thing();
    if (!found || found.list === "camera") return;
    const at = this.document[found.list].indexOf(found.thing) + by;
    this.commit([{ kind: "move", path: [found.list, found.thing.key], value: Math.max(0, at) }], "Changed the build order");
  }

  // A school's lights and cards in place of these.
  begin(school) { return this.enqueue(() => post(this.addresses.school, { key: school, view: this.view() })); }

  switchUnit() {
    this.unit = this.unit === "cm" ? "in" : "cm";
    localStorage.setItem("fotaxis-unit", this.unit);
    this.showUnit();
    fillFields(document, this.state);
    this.refresh();
  }

  showUnit() {
    document.body.dataset.unit = this.unit;
    $("unit-switch").textContent = `Units: ${this.unit}`;
    for (const name of document.querySelectorAll("[data-unit-name]")) name.textContent = this.unit;
    unitOf(document);
  }

  // ---- nudging by keys: previewed at once, kept when the keys rest

  nudge(changes, label) {
    const found = this.thing();
    if (!found) return;
    for (const [wanted, by] of changes) {
      const path = this.own(found.list, wanted);
      if (!path) continue;
      let at = found.thing;
      for (const step of path.slice(0, -1)) at = at[step];
      const name = path[path.length - 1];
      at[name] = Math.round((at[name] + by) * 100) / 100;
      this.nudged ??= new Map();
      this.nudged.set(path.join("."), { path: [found.list, found.thing.key, ...path].filter(Boolean), value: at[name] });
    }
    if (!this.nudged) return;
    this.changing();
    const wish = [...this.nudged.values()];
    this.picture.preview(wish, { moved: performance.now() });
    clearTimeout(this.nudgeTimer);
    this.nudgeTimer = setTimeout(() => {
      this.nudged = null;
      this.commit(wish, label);
      this.picture.settled();
    }, 300);
  }

  // Values set here before the server knows of them.
  put(changes) {
    for (const { path, value } of changes) {
      const owner = reach(this.document, path.slice(0, -1));
      if (owner) owner[path.at(-1)] = value;
    }
  }

  // Where a list keeps what lights and cards keep under place, turn and tilt; null for what it does not have.
  own(list, path) {
    const name = path[path.length - 1];
    if (list === "others") return { x_cm: ["x_cm"], z_cm: ["z_cm"], turn_deg: ["turn_deg"] }[name] ?? null;
    if (this.thing()?.thing.kind === "sun") return null;
    if (list === "camera") return { x_cm: ["side_cm"], z_cm: ["distance_cm"], y_cm: ["height_cm"] }[name] ?? null;
    return path;
  }

  // ---- buttons

  bindButtons() {
    $("undo").onclick = () => this.undo();
    $("redo").onclick = () => this.redo();
    $("keys-button").onclick = () => $("keys").showModal();
    $("add-button").onclick = () => this.adding.open();
    $("tape-button").onclick = () => this.drawings.measuring(!document.body.classList.contains("measuring"));
    $("unit-switch").onclick = () => this.switchUnit();
    if ($("view-link")) new ClientLinks(this);
    onWaiting((words) => this.waiting(words));
    line.listen((reachable) => {
      if (!reachable) this.hold("The server cannot be reached. What you change waits here and is saved when it answers again.");
      else if (this.held && !this.held.action) this.hold("");
    });
    $("work").addEventListener("fotaxis:tab", (event) => {
      if (event.detail.tab === "product") this.product.load();
      if (event.detail.tab === "set") this.refresh();
      if (event.detail.tab === "states") setTimeout(() => this.compare.load());
      if (event.detail.tab === "readings") setTimeout(() => { this.readings.show(); this.readings.histogram(); });
    });
  }

  add(kind) { return this.enqueue(() => post(this.addresses.things, { kind, view: this.view() })); }

  undo() { return this.enqueue(() => post(this.addresses.undo, { ...this.view(), fit: null })); }

  redo() { return this.enqueue(() => post(this.addresses.redo, { ...this.view(), fit: null })); }
}

function reachOrNothing(document, path) {
  const owner = reach(document, path.slice(0, -1));
  return owner?.[path.at(-1)];
}

new Bench();
