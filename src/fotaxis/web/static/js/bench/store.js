// The state of the bench. Everything that is shown follows from it, and nothing but its own methods changes it: views listen, and ask.
//
// What the server gave (`state`) is kept apart from what a hand has set and the server does not know yet (held powers, nudges, drags):
// an older change's answer must not undo on the screen what was set since.
import { getJson, Overtaken, post, Problem } from "../api.js";
import { line } from "../saving.js";
import { reach } from "./paths.js";
import { nextStyle } from "./powers.js";
import { SetState } from "./set_state.js";

const RESTS_MS = 600, NUDGE_RESTS_MS = 600, ASKED_AGAIN_MS = 30000;
const AWAY = "The server cannot be reached. What you change waits here and is saved when it answers again.";
const SIGNED_OUT = "You are signed out. Sign in again in another tab; then what you changed here is saved.";

/** The number of the notch a light's power stands at. */
export function notchOf(light) {
  const off = (notch) => Math.abs(notch.stops - light.power);
  return light.notches.reduce((best, notch, i) => (off(notch) < off(light.notches[best]) ? i : best), 0);
}

export class Store extends SetState {
  #known; // the document as the server gave it; previews change the other one
  #ours = new Map(); // what is on its way to be kept
  #heldPower = null; // {key, stops}: set here, not yet asked to be kept
  #nudged = null; // path -> change
  #working = Promise.resolve();
  #timers = {};
  framing = null; // keeps the framing when the lens changes, where it is told so
  overtaken = false; // was the last save that failed refused because somebody else had been there?
  #asked = null;

  /**
   * @param {any} state as the server gives it
   * @param {Record<string, string>} addresses
   */
  constructor(state, addresses) {
    super(state, addresses);
    this.#known = structuredClone(state.document);
  }

  /** Once all views stand. */
  begin() {
    this.tell("state");
    this.tell("adopted");
    this.refresh(); // the drawings in this window's size
  }

  get working() { return this.#working; }

  /** Something is moved or set here that the server does not know yet: its state would undo it on the screen. */
  get holds() { return this.dragging || Boolean(this.#nudged) || Boolean(this.#heldPower); }

  // ---- changes that are kept

  /**
   * Queue one change after the other; the newest answer is the state. Each says what stood in its place when it was made, so that
   * what somebody else has set there meanwhile is not overwritten unseen.
   */
  commit(changes, label) {
    const seen = this.state.revision;
    const said = changes.map((change) => {
      const at = change.path.join("."), known = reach(this.#known, change.path.slice(0, -1))?.[change.path.at(-1)];
      const was = this.#ours.has(at) ? this.#ours.get(at) : known;
      if ((change.kind ?? "set") !== "set" || was === undefined) return change;
      this.#ours.set(at, change.value);
      return { ...change, was };
    });
    const ask = (more) => post(this.addresses.changes, { changes: said, label, view: { ...this.view(), fit: null }, ...more });
    const again = () => this.enqueue(() => ask({}));
    return this.enqueue(() => ask({ seen }), { again });
  }

  /** @param {() => Promise<any>} work @param {{again?: () => void}} [more] */
  enqueue(work, { again } = {}) {
    this.pending++;
    this.tell("saving");
    if (!line.reachable) this.note(AWAY);
    this.#working = this.#working.then(work).then(
      (state) => { this.pending--; this.#adopt(state); return state; },
      (error) => { this.pending--; this.failed(error, again); },
    );
    return this.#working;
  }

  // To another state of the whole set: the drawings are fitted to it anew.
  #anew(address) { return this.enqueue(() => post(this.addresses[address], { ...this.view(), fit: null })); }

  #ask(address, more = {}) { return this.enqueue(() => post(this.addresses[address], { ...more, view: this.view() })); }

  add(kind) { return this.#ask("things", { kind }); }
  applySetup(key) { return this.#ask("school", { key }); }
  undo() { return this.#anew("undo"); }
  redo() { return this.#anew("redo"); }
  balance() { return this.#anew("balance"); }
  addWishes(key) { return this.enqueue(() => post(this.addresses["wish-set"], { key, view: { ...this.view(), fit: null } })); }
  markWish(at) { return this.enqueue(() => post(this.addresses.mark, { ...at, view: { ...this.view(), fit: null } })); }
  takeWay(wish, number, revision) {
    return this.enqueue(() => post(this.addresses.proposals, { wish, number, revision, view: { ...this.view(), fit: null } }));
  }
  addUsualReadings() { return this.enqueue(() => post(this.addresses["usual-readings"], this.view())); }
  goTo(number) { return this.enqueue(() => post(this.addresses.go, { number, view: { ...this.view(), fit: null } })); }
  send(address, data) { return this.enqueue(() => post(this.addresses[address], data)); }

  mirror() {
    const found = this.thing();
    if (!found?.thing.place) return;
    if (found.thing.pair) this.note(`${found.thing.name} is one of a pair already; Unlink parts them.`);
    else this.#ask("mirror", { key: found.thing.key });
  }

  reorder(by) {
    const found = this.thing();
    if (!found || found.list === "camera") return;
    const at = this.document[found.list].indexOf(found.thing) + by;
    this.commit([{ kind: "move", path: [found.list, found.thing.key], value: Math.max(0, at) }], "Changed the build order");
  }

  /** One more reading, under a key that is free. */
  addReading(value) {
    let { key } = value;
    while (this.readings.some((one) => one.key === key)) key = `${key}-b`;
    return this.commit([{ kind: "add", path: ["readings"], value: { ...value, key } }], "Added a reading");
  }

  /** A save was refused, or could not be sent for good. */
  failed(error, again) {
    if (!(error instanceof Problem)) throw error;
    this.overtaken = error instanceof Overtaken;
    this.#ours.clear();
    if (error instanceof Overtaken) this.hold(error.message, again && { words: "Set mine all the same", act: again });
    else this.note(error.message);
    this.tell("saving", "not saved");
    this.tell("state");
    this.refresh();
    this.tell("adopted");
  }

  #adopt(state) {
    if (state.selected) this.selected = state.selected;
    this.state = state;
    this.#known = structuredClone(state.document);
    if (this.pending === 0) this.#ours.clear();
    if (!this.thing() && this.selected) this.selected = "";
    this.put(this.#nudged?.values() ?? []);
    const light = this.#heldPower && this.light(this.#heldPower.key);
    if (light) light.power = this.#heldPower.stops;
    if (this.pending === 0) {
      if (!this.#nudged && !this.#heldPower) this.tell("saving", "saved");
      this.note(state.note ?? "");
      this.tell("state");
    }
    this.tell("adopted");
  }

  /** Ask for the state as it is now, seen from here. */
  refresh() {
    clearTimeout(this.#timers.refresh);
    this.#timers.refresh = setTimeout(async () => {
      const asked = this.#asked = {};
      const { width, height, selected, unit, tape } = this.view();
      const query = new URLSearchParams({ width: String(width), height: String(height), selected, unit });
      for (const key of tape ?? []) query.append("tape", key);
      try {
        const state = await getJson(`${this.addresses.state}?${query}`);
        if (this.pending > 0 || this.holds || asked !== this.#asked) return;
        if (state.revision !== this.state.revision) this.#adopt(state);
        else { this.state = state; this.tell("state"); }
      } catch (error) {
        if (!(error instanceof Problem)) throw error;
        this.note(error.message); // when the line stands again, the bench asks again
      }
    }, 30);
  }

  /** The shot has changed in another window: this one follows, unless a hand here holds something or has newer work under way. */
  elsewhere(number) {
    if (number === this.state.revision || this.pending > 0) return;
    if (this.holds) setTimeout(() => this.elsewhere(number), 500);
    else this.refresh();
  }

  /** The save under way waits: the server is away or busy, or nobody is signed in. */
  waiting(words) {
    const changed = this.waits !== words;
    this.waits = words;
    if (this.pending) this.tell("saving");
    if (!changed) return;
    if (words === "signed out") this.hold(SIGNED_OUT);
    else if (words === "offline") this.hold(AWAY);
    else if (!words) this.hold("");
  }

  reachable(now) {
    if (!now) this.hold(AWAY);
    else if (this.waits !== "offline" && this.held && !this.held.action) this.hold(""); // a save that waits says so till it is kept
  }

  // ---- set here, kept when the hand rests

  /** Values set here before the server knows of them. */
  put(changes) {
    for (const { path, value } of changes) {
      const owner = reach(this.document, path.slice(0, -1));
      if (owner) owner[path.at(-1)] = value;
    }
  }

  drag(on) {
    if (this.dragging === on) return;
    this.dragging = on;
    this.tell("drag", on);
  }

  setPower(key, stops, { keep }) {
    const began = performance.now();
    this.light(key).power = stops;
    this.tell("light", key);
    this.tell("mix");
    dispatchEvent(new CustomEvent("fotaxis:mixed", { detail: { took: performance.now() - began } }));
    clearTimeout(this.#timers.power);
    if (this.#heldPower && this.#heldPower.key !== key) this.#keepPower();
    this.#heldPower = { key, stops };
    this.tell("saving");
    this.#timers.power = setTimeout(() => this.#keepPower(), keep ? 0 : RESTS_MS);
  }

  #keepPower() {
    const { key, stops } = this.#heldPower;
    const light = this.light(key);
    this.#heldPower = null;
    if (light) this.commit([{ path: ["lights", key, "power_stops"], value: stops }], `Power of ${light.name}`);
  }

  /** The nearest notch to a power; says so where that is far off. */
  typePower(key, stops) {
    const light = this.light(key);
    if (!light || Number.isNaN(stops)) {
      this.note("A power is written as 1/16, 1/8 +1/3, -4 (stops from full) or 6 %.");
      return;
    }
    const nearest = light.notches.reduce((best, notch) => (Math.abs(notch.stops - stops) < Math.abs(best.stops - stops) ? notch : best));
    if (Math.abs(nearest.stops - stops) > 0.5) {
      const end = stops > nearest.stops ? "gives no more than full power: closer, or a larger aperture" : "goes no lower: further away, ND, or a net";
      this.note(`${light.name} ${end}. It stands at ${nearest.name}.`);
    } else this.note("");
    this.setPower(key, nearest.stops, { keep: true });
  }

  /** Set a light so many stops over the key light, at the product. */
  typeRatio(key, over) {
    const light = this.light(key), now = light && this.overKey(light);
    if (Number.isNaN(over)) this.note("Stops are written as +1, -0.7 or 1 1/3.");
    else if (now === null) this.note("A meter at the product reads nothing of this light, or of the key light.");
    else this.typePower(key, light.power + over - now);
  }

  makeKey(key) {
    const light = this.light(key);
    if (light) this.commit([{ path: ["key_light"], value: key }], `${light.name} is the key light`);
  }

  switchPowerStyle() {
    const style = nextStyle();
    this.tell("unit");
    this.note(`Powers are written in ${style}.`);
  }

  stepPower(key, steps) {
    const light = this.light(key);
    if (!light) return;
    const at = Math.max(0, Math.min(light.notches.length - 1, notchOf(light) + steps));
    this.setPower(key, light.notches[at].stops, { keep: false });
  }

  toggleLight(key) {
    const light = this.light(key);
    if (!light) return;
    light.on = !light.on;
    this.tell("light", key);
    this.tell("mix");
    this.commit([{ path: ["lights", key, "on"], value: light.on }], `${light.name} ${light.on ? "on" : "off"}`);
  }

  switchGroup(name) {
    const lights = this.group(name), on = !lights.some((light) => light.on);
    for (const light of lights) { light.on = on; this.tell("light", light.key); }
    this.tell("mix");
    this.commit(lights.map(({ key }) => ({ path: ["lights", key, "on"], value: on })), `${name} ${on ? "on" : "off"}`);
  }

  /** All of a group by one step; where one light is at its end, all stay: a balance is not lost by it. */
  stepGroup(name, steps) {
    const lights = this.group(name);
    const next = lights.map((light) => light.notches[notchOf(light) + steps]?.stops);
    if (next.some((stops) => stops === undefined)) {
      this.note(`A light of ${name} is at the end of its range; the group stays as it is.`);
      return;
    }
    lights.forEach((light, i) => { light.power = next[i]; this.tell("light", light.key); });
    this.tell("mix");
    this.commit(lights.map((light, i) => ({ path: ["lights", light.key, "power_stops"], value: next[i] })), `Power of ${name}`);
  }

  /** Keys move the chosen thing: previewed at once, kept when the keys rest. preview: told what to show. */
  nudge(changes, label, preview) {
    const found = this.thing();
    if (!found) return;
    for (const [wanted, by] of changes) {
      const path = this.own(found.list, wanted);
      if (!path) continue;
      const at = reach(found.thing, path.slice(0, -1));
      const name = path.at(-1);
      at[name] = Math.round((at[name] + by) * 100) / 100;
      this.#nudged ??= new Map();
      this.#nudged.set(path.join("."), { path: [found.list, found.thing.key, ...path].filter(Boolean), value: at[name] });
    }
    if (!this.#nudged) return;
    this.tell("saving");
    const wish = [...this.#nudged.values()];
    this.drag(true);
    preview(wish);
    clearTimeout(this.#timers.nudge);
    this.#timers.nudge = setTimeout(() => {
      this.#nudged = null;
      this.commit(wish, label);
      this.drag(false);
    }, NUDGE_RESTS_MS);
  }

  setReadingLine(value) { this.document.reading_line = value; }

  // ---- how the set is looked at from here

  select(key, { look = true } = {}) {
    this.selected = key;
    this.tell("selected");
    if (look) this.refresh();
  }

  switchUnit() {
    this.unit = this.unit === "cm" ? "in" : "cm";
    localStorage.setItem("fotaxis-unit", this.unit);
    this.tell("unit");
    this.refresh();
  }

  setTape(ends) {
    this.tapeEnds = ends;
    this.note("");
    this.refresh();
  }

  setJudged(judged) {
    this.judged = judged;
    this.tell("judged");
  }

  showAlone(key, { walking = false } = {}) {
    this.alone = this.alone === key ? "" : key;
    this.walking = walking && Boolean(this.alone);
    this.tell("mix");
    this.tell("alone");
  }

  /** Each light alone, in build order, then all together again. */
  walk() {
    const keys = this.state.lights.map(({ key }) => key);
    const next = keys[keys.indexOf(this.alone) + 1] ?? "";
    this.showAlone(next || this.alone, { walking: true });
    if (this.alone) {
      this.select(this.alone);
      this.note(`${this.light(this.alone).name} alone. W: the next one.`);
    } else this.note("");
  }

  toggleBlack() {
    this.black = !this.black;
    this.tell("mix");
    this.tell("alone");
    this.note(this.black ? `Black frame: ${this.state.exposure.black} Press B to switch the flashes on again.` : "");
  }

  // ---- what is said over the frame

  /** A word that stays until the next one. */
  note(text) {
    this.said = text;
    this.tell("note");
  }

  /** A note that stays until it is answered, or something else takes its place. */
  hold(text, action = null) {
    clearTimeout(this.#timers.held);
    this.held = text ? { text, action } : null;
    if (action) this.#timers.held = setTimeout(() => this.hold(""), ASKED_AGAIN_MS);
    this.note("");
  }
}
