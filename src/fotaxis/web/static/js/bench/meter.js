// The incident meter: where it was set down, dome or flat, and what it faces.
import { $ } from "../dom.js";

export class Meter {
  constructor(bench) {
    this.bench = bench;
    this.store = bench.store;
    this.placing = false;
    this.store.on(["state", "judged"], () => this.show());
    $("meter-place").onclick = () => this.place(!this.placing);
    $("meter-dome").onchange = ({ target }) => this.change({ dome: Boolean(target.value) });
    $("meter-faces").onchange = ({ target }) => this.change({ faces: target.value });
    $("meter-usual").onclick = () => this.keep(null, "The meter before the product again");
  }

  show() {
    const { store } = this, { meter } = store.document, { metered, how } = store.state.exposure.meter;
    $("meter-where").textContent = `${metered} · ${how}`;
    const choices = [["surface", "away from what it lies on"], ["camera", "the camera"], ...store.state.lights.map(({ key, number, name }) => [key, `${number} ${name}`])];
    $("meter-faces").replaceChildren(...choices.map(([value, words]) => new Option(words, value)));
    $("meter-faces").value = meter?.faces ?? "camera";
    $("meter-dome").value = meter?.dome ? "1" : "";
    for (const part of [$("meter-faces"), $("meter-dome"), $("meter-usual")]) part.disabled = !meter;
  }

  place(on) {
    this.placing = on;
    $("meter-place").setAttribute("aria-pressed", String(on));
    document.body.classList.toggle("placing", on);
    this.store.note(on ? "Click on the frame where the meter is to lie: product, label, table, background. Escape leaves it." : "");
  }

  async put({ x, y }) {
    this.place(false);
    const { at } = await this.bench.frame.spot({ x, y }, true);
    if (at) this.keep({ dome: false, faces: "surface", ...this.store.document.meter, ...at }, `Meter on ${at.on}`);
    else this.store.note("Nothing stands there that a meter could be held against.");
  }

  change(values) { this.keep({ ...this.store.document.meter, ...values }, "Meter"); }
  keep(value, label) { this.store.commit([{ path: ["meter"], value }], label); }
}
