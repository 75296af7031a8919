// The form of one product: its shape, glass, skins and zones; fetched anew whenever a choice changes which fields there are.

import { $, all, query } from "../dom.js";
import { getHtml, post } from "../api.js";
import { OutlineEditor } from "../outline/editor.js";
import { bindFields, fillFields } from "./fields.js";
import { Unrolled } from "./unrolled.js";

export class ProductForm {
  constructor(bench) {
    this.bench = bench;
    this.store = bench.store;
    this.key = "product";
    this.photo = "";
    this.store.on("state", () => { if (!this.store.dragging) this.unrolled.draw(); });
    addEventListener("resize", () => { this.unrolled.draw(); this.section?.draw(); });
    this.box = $("product-form");
    this.unrolled = new Unrolled(bench);
    this.again = (state) => state && this.load();
    this.reshaped = (state) => {
      this.again(state);
      if (state) bench.framing.offer();
    };
  }

  async load() {
    const { store, box } = this;
    if (!store.document.others?.some((other) => other.key === this.key)) this.key = "product";
    try {
      box.innerHTML = await getHtml(`${store.addresses.product}?key=${encodeURIComponent(this.key)}`);
    } catch (error) { store.failed(error); return; }
    bindFields(store, box);
    fillFields(box, store.state);
    for (const button of all("[data-product]", box)) {
      button.onclick = () => { this.key = button.dataset.product; this.load(); };
    }
    for (const select of all("select[data-path]", box)) {
      select.addEventListener("change", () => store.working.then(this.again));
    }
    for (const select of all("[data-part-material]", box)) {
      const change = () => ({ path: [...select.dataset.partMaterial.split("."), "skin"], value: select.value ? { material: select.value } : null });
      select.onchange = () => store.commit([change()], select.getAttribute("aria-label")).then(this.again);
    }
    this.sends("#outline-form", "profile");
    this.sends("#model-form", "model");
    this.bindShape();
    this.bindHands();
    this.bindArtwork();
    for (const button of all("[data-remove]", box)) {
      button.onclick = () => store.commit([{ kind: "remove", path: button.dataset.remove.split(".") }], "Removed").then(this.again);
    }
    for (const button of all("[data-add-band]", box)) {
      const change = { kind: "add", path: button.dataset.bands.split("."), value: JSON.parse(button.dataset.addBand) };
      button.onclick = () => store.commit([change], "Added a zone").then(this.again);
    }
  }

  get path() { return this.key === "product" ? "subject" : `others.${this.key}`; }

  get subject() {
    const { document } = this.store;
    return this.key === "product" ? document.subject : document.others.find((one) => one.key === this.key);
  }

  // The drawings a hand works in: the product cut along its axis, and its surface laid flat.
  bindHands() {
    const surface = JSON.parse($("surface").textContent);
    this.unrolled.leaveFrame();
    this.unrolled.show($("unrolled"), $("unrolled-words"), surface, { key: this.key, path: this.path });
    const svg = $("cross-section");
    if (!svg) return;
    const changeOf = (what, value) => {
      const at = { profile: ["profile"], floor: ["glass", "floor_cm"], wall: ["glass", "wall_mm"], level: ["liquid", "level_cm"] }[what];
      const kept = what === "profile" ? value.map(([height_cm, diameter_cm]) => ({ height_cm, diameter_cm })) : value;
      return at && { path: [...this.path.split("."), ...at], value: kept };
    };
    this.section = new OutlineEditor(svg, {
      words: (words) => { if (!this.photo) $("cross-words").textContent = words; },
      dragged: (what, value) => {
        const change = changeOf(what, value);
        if (this.photo || !change) return;
        this.store.drag(true);
        this.bench.frame.preview([change]);
      },
      dropped: (what, value, wasKept) => {
        const change = changeOf(what, value);
        if (this.photo || !change) return;
        if (wasKept) this.store.commit([change], { profile: "Outline", floor: "Base thickness", wall: "Wall", level: "Level" }[what]).then(this.again);
        else this.load();
        this.store.drag(false);
      },
    });
    this.dropPhoto();
    this.showSection(surface);
    const form = $("photo-form");
    form.elements.file.onchange = () => this.propose(form);
    form.onsubmit = (event) => event.preventDefault();
    $("use-outline").onclick = () => {
      const change = changeOf("profile", this.section.value("profile"));
      this.dropPhoto();
      this.store.commit([change], "Outline from a photograph").then(this.reshaped);
    };
    $("drop-outline").onclick = () => { this.dropPhoto(); this.showSection(surface); };
  }

  showSection(surface) {
    const { glass, liquid, profile } = this.subject;
    this.section.show({
      points: profile.map(({ height_cm: h, diameter_cm: d }) => [h, d]), smooth: surface.outline, inside: surface.inside,
      glass: glass && { floor: glass.floor_cm, wall: glass.wall_mm, measured: glass.inside?.length > 0 }, level: glass && liquid ? liquid.level_cm : null,
    });
  }

  // A photograph's outline is shown over it, and stays a proposal until it is used.
  async propose(form) {
    const data = new FormData(form), file = /** @type {File} */ (data.get("file"));
    if (!file?.size) return;
    $("cross-words").textContent = "Looking for the outline …";
    try {
      const found = await post(this.store.addresses.outline, data);
      this.dropPhoto();
      this.photo = URL.createObjectURL(file);
      this.section.show({ points: found.points, photo: { url: this.photo, foot: found.foot, top: found.top, size: found.size } });
      $("cross-words").textContent = found.words;
      for (const id of ["use-outline", "drop-outline"]) $(id).hidden = false;
    } catch (error) {
      $("cross-words").textContent = error.message;
    }
    form.elements.file.value = "";
  }

  dropPhoto() {
    if (this.photo) URL.revokeObjectURL(this.photo);
    this.photo = "";
    for (const id of ["use-outline", "drop-outline"]) if ($(id)) $(id).hidden = true;
  }

  bindArtwork() {
    const send = (band, part, file) => {
      const data = new FormData();
      for (const [name, value] of Object.entries({ key: this.key, band, part })) data.set(name, value);
      if (file) data.set("file", file);
      this.store.send("artwork", data).then((state) => {
        if (state) this.unrolled.chosen = Number(band) >= 0 ? Number(band) : this.subject.bands.findLastIndex((one) => one.artwork);
        this.again(state);
      });
    };
    for (const input of all("[data-artwork]", this.box)) input.onchange = () => { if (input.files.length) send(input.dataset.artwork, input.dataset.part, input.files[0]); };
    for (const button of all("[data-artwork-off]", this.box)) button.onclick = () => send(button.dataset.artworkOff, button.dataset.part);
    for (const button of all("[data-on-frame]", this.box)) button.onclick = () => this.unrolled.onFrame(Number(button.dataset.onFrame), button);
  }

  sends(form, address) {
    const found = query(form, this.box);
    if (!found) return;
    found.onsubmit = (event) => {
      event.preventDefault();
      const data = new FormData(event.target);
      if (!/** @type {File} */ (data.get("file"))?.size) data.delete("file");
      this.store.send(address, data).then(this.reshaped);
    };
  }

  bindShape() {
    const shape = query("#shape-choice", this.box), model = query("#model-form", this.box);
    model.hidden = shape.value !== "model";
    shape.onchange = () => {
      model.hidden = shape.value !== "model";
      if (shape.value === "model") return;
      const data = new FormData();
      data.set("kind", shape.value);
      data.set("key", this.key);
      this.store.send("shape", data).then(this.reshaped);
    };
  }
}
