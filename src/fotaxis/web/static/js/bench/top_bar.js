// What stands around the picture: saved or not, undo, what the meter says, the unit of lengths.
import { $, all } from "../dom.js";


export class TopBar {
  constructor(bench) {
    const store = this.store = bench.store;
    store.on("saving", (words) => this.saving(words));
    store.on("state", () => this.show());
    store.on("unit", () => this.unit());
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
    $("metered").textContent = exposure.over ? `${exposure.metered}, ${exposure.over}` : exposure.metered;
    $("metered-how").textContent = exposure.meteredHow;
    const holds = exposure.blackHolds;
    $("black-short").textContent = holds === false ? "Black frame: fails" : holds ? "Black frame: holds" : "Black frame: just holds";
    $("black-long").textContent = $("black").title = exposure.black;
    $("black").classList.toggle("bad", holds === false);
    $("background-words").textContent = background;
    $("lens-words").textContent = exposure.lens;
    if (exposure.fault) this.store.note("");
  }

  unit() {
    const { unit } = this.store;
    document.body.dataset.unit = unit;
    $("unit-switch").textContent = `Units: ${unit}`;
    for (const name of all("[data-unit-name]")) name.textContent = unit;
  }
}
