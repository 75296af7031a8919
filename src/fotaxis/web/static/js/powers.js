// Powers and switches: one light, a group, each alone in turn. The picture follows at once; the shot keeps it when the hand rests.

const $ = (id) => document.getElementById(id);
const RESTS_MS = 350;

// The number of the notch a light's power stands at.
export function notchOf(light) {
  return light.notches.reduce((best, notch, i) => (Math.abs(notch.stops - light.power) < Math.abs(light.notches[best].stops - light.power) ? i : best), 0);
}

export class Powers {
  constructor(bench) {
    this.bench = bench;
    this.held = null; // {key, stops}: set here, not yet asked to be kept
    $("walk").onclick = () => this.walk();
  }

  set(key, stops, { keep }) {
    const began = performance.now();
    const light = this.bench.light(key);
    light.power = stops;
    this.bench.picture.mix();
    this.bench.lights.update(light);
    dispatchEvent(new CustomEvent("fotaxis:mixed", { detail: { took: performance.now() - began } }));
    clearTimeout(this.timer);
    if (this.held && this.held.key !== key) this.keep();
    this.held = { key, stops };
    this.bench.changing();
    this.timer = setTimeout(() => this.keep(), keep ? 0 : RESTS_MS);
  }

  keep() {
    const { key, stops } = this.held;
    const light = this.bench.light(key);
    this.held = null;
    if (light) this.bench.commit([{ path: ["lights", key, "power_stops"], value: stops }], `Power of ${light.name}`);
  }

  // An older change's answer knows nothing of the power a hand has set since.
  keepHeld() {
    const light = this.held && this.bench.light(this.held.key);
    if (light) light.power = this.held.stops;
  }

  step(key, steps) {
    const light = this.bench.light(key);
    if (!light) return;
    const at = notchOf(light);
    const next = light.notches[Math.max(0, Math.min(light.notches.length - 1, at + steps))];
    this.set(key, next.stops, { keep: false });
  }

  toggle(key) {
    const light = this.bench.light(key);
    if (!light) return;
    light.on = !light.on;
    this.bench.picture.mix();
    this.bench.lights.update(light);
    this.bench.commit([{ path: ["lights", key, "on"], value: light.on }], `${light.name} ${light.on ? "on" : "off"}`);
  }

  solo(key) {
    this.bench.picture.alone = this.bench.picture.alone === key ? "" : key;
    $("walk").setAttribute("aria-pressed", "false");
    this.bench.picture.mix();
    this.bench.lights.show(this.bench.state);
  }

  // Each light alone, in build order, then all together again.
  walk() {
    const keys = this.bench.state.lights.map(({ key }) => key);
    const next = keys[keys.indexOf(this.bench.picture.alone) + 1] ?? "";
    this.solo(next || this.bench.picture.alone);
    $("walk").setAttribute("aria-pressed", String(Boolean(this.bench.picture.alone)));
    if (this.bench.picture.alone) {
      this.bench.select(this.bench.picture.alone);
      this.bench.note(`${this.bench.light(this.bench.picture.alone).name} alone. W: the next one.`);
    } else this.bench.note("");
  }

  group(name) { return this.bench.state.lights.filter((light) => light.group === name); }

  switchGroup(name) {
    const lights = this.group(name), on = !lights.some((light) => light.on);
    for (const light of lights) light.on = on;
    this.bench.picture.mix();
    this.bench.lights.show(this.bench.state);
    this.bench.commit(lights.map(({ key }) => ({ path: ["lights", key, "on"], value: on })), `${name} ${on ? "on" : "off"}`);
  }

  // All of a group by one step; where one light is at its end, all stay: a balance is not lost by it.
  stepGroup(name, steps) {
    const lights = this.group(name);
    const next = lights.map((light) => {
      const at = notchOf(light);
      return light.notches[at + steps]?.stops;
    });
    if (next.some((stops) => stops === undefined)) {
      this.bench.note(`A light of ${name} is at the end of its range; the group stays as it is.`);
      return;
    }
    lights.forEach((light, i) => { light.power = next[i]; this.bench.lights.update(light); });
    this.bench.picture.mix();
    this.bench.commit(lights.map((light, i) => ({ path: ["lights", light.key, "power_stops"], value: next[i] })), `Power of ${name}`);
  }
}
