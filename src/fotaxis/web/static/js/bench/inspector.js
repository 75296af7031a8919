// The row of the chosen thing: where a tape finds it, what its light passes, and its measures.
import { $, all, query, targetOf } from "../dom.js";
import { post } from "../api.js";
import { bindFields, fillFields, showParts } from "./fields.js";
import { parsePower, parseStops, powerName, signedStops } from "./powers.js";
import { notchOf } from "./store.js";


export class Inspector {
  constructor(bench, box) {
    this.bench = bench;
    this.store = bench.store;
    this.store.on("selected", () => this.show());
    this.store.on("state", () => { this.show(); this.between(this.store.state.tape); });
    this.store.on("judged", () => this.chain());
    this.store.on(["light", "unit"], () => this.powers());
    this.box = box;
    this.segment = "place";
    box.addEventListener("click", (event) => this.clicked(event));
    $("polariser-variants").onclick = () => this.variants("polariser");
  }

  show() {
    const { store, box } = this;
    const found = store.thing();
    if (!found) {
      box.dataset.for = "";
      box.replaceChildren(Object.assign(document.createElement("p"), {
        className: "muted",
        textContent: store.document.lights.length || store.document.cards.length
          ? "Grab a panel on the floor or in the side view: its reflection follows. The round handle turns it, the square ones size it. Number keys select a light. Point at the frame to read what is mirrored there."
          : "No lights yet. Press Add, or N: choose a lighting set-up, fitted to this product, or a single light, then drag it on the floor until its line runs down the edge of the product.",
      }));
      return;
    }
    const { list, thing } = found;
    const kind = list === "cards" && thing.kind.endsWith("card") ? "card" : { others: "subject", camera: "camera" }[list] ?? thing.kind;
    if (box.dataset.for !== `${list}.${thing.key}.${kind}`) this.rebuild(found, kind);
    fillFields(box, store.state);
    if (list === "camera") return;
    const part = (name) => query(name, box);
    this.words(store.state.things.find((one) => one.key === store.selected) ?? { number: "", name: thing.name, words: "", fault: "" });
    for (const when of all("[data-when]", box)) when.hidden = when.dataset.when !== thing.calibration?.kind;
    for (const head of all("[data-head]", box)) head.hidden = head.dataset.head !== thing.head;
    if (part("[data-mirror]")) {
      part("[data-mirror]").hidden = Boolean(thing.pair);
      part("[data-unlink]").hidden = !thing.pair;
      part("[data-unlink]").title = thing.pair ? `Paired with ${store.thing(thing.pair)?.thing.name}: both stay symmetric. Unlink to move them apart.` : "";
    }
    this.chain();
    this.powers();
    showParts(box, store.document);
  }

  // Power and ratio of the chosen light, as they are typed.
  powers() {
    const { store, box } = this;
    const light = store.light(store.selected);
    const fields = { power: box.querySelector("[data-power]"), ratio: box.querySelector("[data-ratio]") };
    if (!light || !fields.power) return;
    const over = store.overKey(light), key = store.light(store.keyLight);
    if (fields.power !== document.activeElement) fields.power.value = powerName(light.notches[notchOf(light)]);
    if (fields.ratio !== document.activeElement) fields.ratio.value = over === null ? "" : signedStops(over);
    fields.ratio.disabled = light.key === store.keyLight;
    query(".against", box).textContent = light.key === store.keyLight ? "Is the key" : `Against ${key ? key.number : "the key"}`;
    fields.power.onchange = () => store.typePower(light.key, parsePower(fields.power.value));
    fields.ratio.onchange = () => store.typeRatio(light.key, parseStops(fields.ratio.value));
  }

  // Where a tape finds the thing, or what is in its way.
  words({ number, name, words, fault }) {
    query(".tape-name", this.box).textContent = `${number} ${name}`.trim();
    const line = query(".tape-words", this.box);
    line.textContent = fault || words;
    line.classList.toggle("bad", Boolean(fault));
    const caution = query(".caution", this.box), said = this.store.state.cautions?.[this.store.selected] ?? "";
    if (!caution) return;
    caution.textContent = said;
    caution.hidden = !said;
  }

  // While a hand holds the thing: thing as of the picture that was just painted, tape the words of the tape that lies out.
  // Ten times a second is enough to read, and leaves the time to the pictures.
  held(header) {
    this.latest = header;
    this.telling ??= setTimeout(() => {
      this.telling = null;
      const { store, box, latest: { thing, tape } } = this;
      if (!store.dragging) return;
      if (thing && thing.key === store.selected) this.words(thing);
      fillFields(box, store.state);
      this.between(tape);
    }, 100);
  }

  between(words = "") {
    $("tape-words").textContent = words;
    $("tape-words").hidden = !words;
  }

  rebuild({ list, thing }, kind) {
    const copy = $(`thing-${kind.replaceAll(" ", "-")}`).content.cloneNode(true);
    for (const field of all("[data-path]", copy)) field.dataset.path = field.dataset.path.replace("@", `${list}.${thing.key}`);
    for (const part of all("[data-part]", copy)) part.dataset.part = part.dataset.part.replace("@", `${list}.${thing.key}`);
    this.box.replaceChildren(copy);
    this.box.dataset.for = `${list}.${thing.key}.${kind}`;
    bindFields(this.store, this.box);
    this.turnTo(this.segment);
  }

  // One group of measures at a time, so that none lies below the edge of the screen.
  turnTo(segment) {
    const parts = all("[data-segment]", this.box);
    const there = new Set(all("[data-to-segment]", this.box).map((button) => button.dataset.toSegment));
    const shown = there.has(segment) ? segment : "place";
    for (const part of parts) part.hidden = part.dataset.segment !== shown;
    for (const button of all("[data-to-segment]", this.box)) button.setAttribute("aria-pressed", String(button.dataset.toSegment === shown));
  }

  // The light's way as a chain: head, grid, gels, sheets, nets, each with the stops it takes at the product.
  chain() {
    const line = query(".tape-chain", this.box);
    const chain = this.store.judged?.chains?.[this.store.selected];
    const light = this.store.light(this.store.selected);
    if (!line) return;
    line.hidden = !(chain && light);
    if (line.hidden) return;
    line.replaceChildren(light.kind);
    for (const { key, name, stops } of chain.parts) {
      /** @type {any} */
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

  // The set with other sheets, grids or turns of the polariser, as one picture.
  variants(what, key = "") {
    const picture = query("img", $("variants"));
    picture.removeAttribute("src");
    picture.src = `${this.store.addresses["variants.png"]}?${new URLSearchParams({ what, key, at: String(this.store.state.revision) })}`;
    query("a", $("variants")).setAttribute("href", picture.src);
    $("variants").showModal();
  }

  // A pair of readings of one's own, with a sheet and without it.
  sheetRead(key) {
    const read = Object.fromEntries(all("[data-read]", this.box).map((field) => [field.dataset.read, Number(field.value)]));
    if (Object.values(read).some((value) => !(value > 0))) {
      this.store.note("Both readings are needed, and both distances: f without the sheet, f with it, head behind, meter before.");
      return;
    }
    this.store.enqueue(() => post(this.store.addresses["sheet-loss"], { key, ...read, view: { ...this.store.view(), fit: null } }));
  }

  clicked(event) {
    const { bench, store } = this;
    const found = store.thing();
    if (!found) return;
    const { list, thing } = found;
    const hit = (selector) => targetOf(event).closest(selector);
    if (hit("[data-to-segment]")) {
      this.segment = hit("[data-to-segment]").dataset.toSegment;
      this.turnTo(this.segment);
    } else if (hit("[data-select]")) store.select(hit("[data-select]").dataset.select);
    else if (hit("[data-variants]")) this.variants(hit("[data-variants]").dataset.variants, thing.key);
    else if (hit("[data-sheet-read]")) this.sheetRead(thing.key);
    else if (hit("[data-remove-thing]")) store.commit([{ kind: "remove", path: [list, thing.key] }], `Removed ${thing.name}`);
    else if (hit("[data-edit-product]")) {
      bench.product.key = thing.key;
      $("tab-product").click();
    } else if (hit("[data-make-key]")) store.makeKey(thing.key);
    else if (hit("[data-mirror]")) store.mirror();
    else if (hit("[data-unlink]")) {
      store.commit([{ path: [list, thing.pair, "pair"], value: null }, { path: [list, thing.key, "pair"], value: null }], `Unlinked ${thing.name}`);
    } else if (hit("[data-way-add]")) {
      const via = thing.via ?? [], last = via.at(-1) ?? thing, half = (a, b) => Math.round((a + b) * 5) / 10;
      const place = Object.fromEntries(["x_cm", "y_cm", "z_cm"].map((side) => [side, half(last.place[side], thing.to.place[side])]));
      const point = { place, turn_deg: half(last.turn_deg, thing.to.turn_deg), tilt_deg: half(last.tilt_deg, thing.to.tilt_deg) };
      store.commit([{ path: [list, thing.key, "via"], value: [...via, point] }], `Point on the way of ${thing.name}`);
    } else if (hit("[data-way-remove]")) {
      const at = Number(hit("[data-way-remove]").dataset.wayRemove);
      store.commit([{ path: [list, thing.key, "via"], value: thing.via.filter((_, i) => i !== at) }], `Point off the way of ${thing.name}`);
    } else if (hit("[data-move]")) store.reorder(Number(hit("[data-move]").dataset.move));
  }
}
