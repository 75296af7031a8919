// The row of the chosen thing: where a tape finds it, what its light passes, and its measures.
import { bindFields, fillFields, showParts } from "./fields.js";

const $ = (id) => document.getElementById(id);

export class TapeRow {
  constructor(bench, box) {
    this.bench = bench;
    this.box = box;
    this.segment = "place";
    box.addEventListener("click", (event) => this.clicked(event));
  }

  show() {
    const { bench, box } = this;
    const found = bench.thing();
    if (!found) {
      box.dataset.for = "";
      box.replaceChildren(Object.assign(document.createElement("p"), {
        className: "muted",
        textContent: bench.document.lights.length || bench.document.cards.length
          ? "Grab a panel on the floor or in the side view: its reflection follows. The round handle turns it, the square ones size it. Number keys select a light. Point at the frame to read what is mirrored there."
          : "No lights yet. Press Add, or N: choose a whole school, fitted to this product, or a single light, then drag it on the floor until its line runs down the edge of the product.",
      }));
      return;
    }
    const { list, thing } = found;
    const kind = list === "cards" && thing.kind.endsWith("card") ? "card" : { others: "subject", camera: "camera" }[list] ?? thing.kind;
    if (box.dataset.for !== `${list}.${thing.key}.${kind}`) this.rebuild(found, kind);
    fillFields(box, bench.state);
    if (list === "camera") return;
    const part = (name) => box.querySelector(name);
    this.words(bench.state.things.find((one) => one.key === bench.selected) ?? { number: "", name: thing.name, words: "", fault: "" });
    for (const when of box.querySelectorAll("[data-when]")) when.hidden = when.dataset.when !== thing.calibration?.kind;
    for (const head of box.querySelectorAll("[data-head]")) head.hidden = head.dataset.head !== thing.head;
    if (part("[data-mirror]")) {
      part("[data-mirror]").hidden = Boolean(thing.pair);
      part("[data-unlink]").hidden = !thing.pair;
      part("[data-unlink]").title = thing.pair ? `Paired with ${bench.thing(thing.pair)?.thing.name}: both stay symmetric. Unlink to move them apart.` : "";
    }
    this.chain();
    showParts(box, bench.document);
  }

  // Where a tape finds the thing, or what is in its way.
  words({ number, name, words, fault }) {
    this.box.querySelector(".tape-name").textContent = `${number} ${name}`.trim();
    const line = this.box.querySelector(".tape-words");
    line.textContent = fault || words;
    line.classList.toggle("bad", Boolean(fault));
  }

  // While a hand holds the thing: thing as of the picture that was just painted, tape the words of the tape that lies out.
  // Ten times a second is enough to read, and leaves the time to the pictures.
  held(header) {
    this.latest = header;
    this.telling ??= setTimeout(() => {
      this.telling = null;
      const { bench, box, latest: { thing, tape } } = this;
      if (!bench.picture.dragging) return;
      if (thing && thing.key === bench.selected) this.words(thing);
      fillFields(box, bench.state);
      this.between(tape);
    }, 100);
  }

  between(words = "") {
    $("tape-words").textContent = words;
    $("tape-words").hidden = !words;
  }

  rebuild({ list, thing }, kind) {
    const copy = $(`thing-${kind.replace(" ", "-")}`).content.cloneNode(true);
    for (const field of copy.querySelectorAll("[data-path]")) field.dataset.path = field.dataset.path.replace("@", `${list}.${thing.key}`);
    for (const part of copy.querySelectorAll("[data-part]")) part.dataset.part = part.dataset.part.replace("@", `${list}.${thing.key}`);
    this.box.replaceChildren(copy);
    this.box.dataset.for = `${list}.${thing.key}.${kind}`;
    bindFields(this.bench, this.box);
    this.turnTo(this.segment);
  }

  // One group of measures at a time, so that none lies below the edge of the screen.
  turnTo(segment) {
    const parts = [...this.box.querySelectorAll("[data-segment]")];
    const there = new Set([...this.box.querySelectorAll("[data-to-segment]")].map((button) => button.dataset.toSegment));
    const shown = there.has(segment) ? segment : "place";
    for (const part of parts) part.hidden = part.dataset.segment !== shown;
    for (const button of this.box.querySelectorAll("[data-to-segment]")) button.setAttribute("aria-pressed", String(button.dataset.toSegment === shown));
  }

  // The light's way as a chain: head, grid, gels, sheets, nets, each with the stops it takes at the product.
  chain() {
    const line = this.box.querySelector(".tape-chain");
    const chain = this.bench.judged?.chains?.[this.bench.selected];
    const light = this.bench.light(this.bench.selected);
    if (!line) return;
    line.hidden = !(chain && light);
    if (line.hidden) return;
    line.replaceChildren(light.kind);
    for (const { key, name, stops } of chain.parts) {
      const step = Object.assign(document.createElement(key ? "button" : "span"), { textContent: `${name} ${stops}` });
      if (key) {
        step.type = "button";
        step.dataset.select = key;
        step.title = "Select it";
      }
      line.append(" → ", step);
    }
    line.append(` → product. ${chain.full}`);
  }

  clicked(event) {
    const { bench } = this;
    const found = bench.thing();
    if (!found) return;
    const { list, thing } = found;
    const hit = (selector) => event.target.closest(selector);
    if (hit("[data-to-segment]")) {
      this.segment = hit("[data-to-segment]").dataset.toSegment;
      this.turnTo(this.segment);
    } else if (hit("[data-select]")) bench.select(hit("[data-select]").dataset.select);
    else if (hit("[data-remove-thing]")) bench.commit([{ kind: "remove", path: [list, thing.key] }], `Removed ${thing.name}`);
    else if (hit("[data-edit-product]")) {
      bench.product.key = thing.key;
      $("tab-product").click();
    } else if (hit("[data-mirror]")) bench.mirror();
    else if (hit("[data-unlink]")) {
      bench.commit([{ path: [list, thing.pair, "pair"], value: null }, { path: [list, thing.key, "pair"], value: null }], `Unlinked ${thing.name}`);
    } else if (hit("[data-move]")) bench.reorder(Number(hit("[data-move]").dataset.move));
  }
}
