// What stands around the picture: saved or not, undo, what the meter says, the unit of lengths.
import { $, all } from "../dom.js";
import { style } from "./powers.js";


export class TopBar {
  constructor(bench) {
    const store = this.store = bench.store;
    store.on("saving", (words) => this.saving(words));
    store.on("state", () => this.show());
    store.on("unit", () => this.unit());
    store.on(["judged", "alone"], () => this.meter());
    $("power-style").onclick = () => store.switchPowerStyle();
    $("meter").onclick = () => $("tab-readings").click();
    $("undo").onclick = () => store.undo();
    $("redo").onclick = () => store.redo();
    $("walk").onclick = () => store.walk();
    $("keys-button").onclick = () => $("keys").showModal();
    $("add-button").onclick = () => bench.adding.open();
    $("tape-button").onclick = () => bench.drawings.measuring(!document.body.classList.contains("measuring"));
    $("unit-switch").onclick = () => store.switchUnit();
    this.unit();
  }

  saving(words) {
    const { waits, pending } = this.store;
    $("saved").textContent = words || (waits ? `${waits}: ${pending} waiting` : "saving…");
  }

  show() {
    const { undo, redo, exposure, revision, background } = this.store.state;
    document.body.dataset.revision = revision;
    $("undo").disabled = !undo;
    $("redo").disabled = !redo;
    $("undo").title = undo ? `Undo: ${undo} (Ctrl+Z)` : "Nothing to undo";
    $("redo").title = redo ? `Redo: ${redo} (Ctrl+Shift+Z)` : "Nothing to redo";
    this.meter();
    const holds = exposure.blackHolds;
    $("black-short").textContent = holds === false ? "Black frame: fails" : holds ? "Black frame: holds" : "Black frame: just holds";
    $("black-long").textContent = $("black").title = exposure.black;
    $("black").classList.toggle("bad", holds === false);
    $("background-words").textContent = background;
    $("lens-words").textContent = exposure.lens;
    if (exposure.fault) this.store.note("");
  }

  // The meter of what is shown: all lights, one alone, or the black frame.
  meter() {
    const { alone, black, judged, state } = this.store;
    const { metered, how, long } = ((alone || black) && judged?.meter) || state.exposure.meter;
    $("metered").textContent = metered;
    $("metered-how").textContent = alone || black ? "of what is shown" : how;
    $("meter").title = long;
  }

  unit() {
    const { unit } = this.store;
    document.body.dataset.unit = unit;
    $("unit-switch").textContent = `Units: ${unit}`;
    $("power-style").textContent = `Power: ${{ fractions: "1/16", stops: "−4", "per cent": "6 %" }[style()]}`;
    for (const name of all("[data-unit-name]")) name.textContent = unit;
  }
}
