// What the bench shows, as views read it. Only the store, which is built on this, changes anything here.

/**
 * What views listen for: "state" (anything of the set may be new), "light" (power or switch of one), "mix" (what the frame adds up),
 * "alone", "selected", "judged", "saving", "note", "unit", "drag" (begun or ended), "adopted" (an answer of the server was taken in).
 * @typedef {"state" | "light" | "mix" | "alone" | "selected" | "judged" | "saving" | "note" | "unit" | "drag" | "adopted"} Topic
 */

export class SetState {
  /** @type {Map<Topic, Set<(detail?: any) => void>>} */
  listeners = new Map();

  /** @param {any} state as the server gives it @param {Record<string, string>} addresses */
  constructor(state, addresses) {
    this.state = state;
    this.addresses = addresses;
    this.selected = "";
    this.judged = null;
    this.tapeEnds = null;
    this.unit = localStorage.getItem("fotaxis-unit") === "in" ? "in" : "cm";
    this.alone = "";
    this.black = false;
    this.walking = false;
    this.dragging = false;
    this.pending = 0;
    this.waits = "";
    this.said = "";
    /** @type {{text: string, action: {words: string, act: () => void} | null} | null} */
    this.held = null;
    /** How large the drawings are; set by whoever shows them. */
    this.size = () => ({ width: 380, height: 288 });
  }

  // ---- listening

  /** @param {Topic | Topic[]} topics @param {(detail?: any) => void} told */
  on(topics, told) {
    for (const topic of [topics].flat()) {
      if (!this.listeners.has(topic)) this.listeners.set(topic, new Set());
      this.listeners.get(topic).add(told);
    }
  }

  /** @param {Topic} topic @param {any} [detail] */
  tell(topic, detail) { for (const told of this.listeners.get(topic) ?? []) told(detail); }

  // ---- reading

  get document() { return this.state.document; }
  get readings() { return this.document.readings ?? []; }

  thing(key = this.selected) {
    if (key === "camera") return { list: "camera", thing: this.document.camera };
    for (const list of ["lights", "cards", "others"]) {
      const found = this.document[list]?.find((thing) => thing.key === key);
      if (found) return { list, thing: found };
    }
    return null;
  }

  light(key) { return this.state.lights.find((light) => light.key === key); }
  group(name) { return this.state.lights.filter((light) => light.group === name); }
  gainOf(light) { return light.gain * 2 ** light.power; }

  get keyLight() { return this.state.keyLight; }

  /** The aperture that a meter at the product, turned to a light, asks for at its present power; 0 in the dark. */
  apertureOf(light) { return light.fullF * 2 ** (light.power / 2); }

  /** Stops of a light over the key light, both metered towards each; null where one of them gives nothing. */
  overKey(light) {
    const key = this.light(this.keyLight);
    return key?.fullF > 0 && light.fullF > 0 ? 2 * Math.log2(this.apertureOf(light) / this.apertureOf(key)) : null;
  }

  /** Factor of every layer in the mixed frame. */
  gains() {
    const gains = new Map([[this.state.roomKey, this.alone && !this.black ? 0 : this.state.roomGain]]);
    for (const light of this.state.lights) {
      const lit = this.black ? light.continuous && light.on : this.alone ? light.key === this.alone : light.on;
      gains.set(light.key, lit && !this.state.exposure.fault ? this.gainOf(light) : 0);
    }
    return gains;
  }

  /** What the server is told of how this bench looks at the set. */
  view() {
    return { ...this.size(), selected: this.selected, fit: this.state.fit ?? null, unit: this.unit, tape: this.tapeEnds };
  }

  /** Where a list keeps what lights and cards keep under place, turn and tilt; null for what it does not have. */
  own(list, path) {
    const name = path[path.length - 1];
    if (list === "others") return { x_cm: ["x_cm"], z_cm: ["z_cm"], turn_deg: ["turn_deg"] }[name] ?? null;
    if (this.thing()?.thing.kind === "sun") return null;
    if (list === "camera") return { x_cm: ["side_cm"], z_cm: ["distance_cm"], y_cm: ["height_cm"] }[name] ?? null;
    return path;
  }
}
