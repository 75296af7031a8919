// The form of one product: its shape, glass, skins and zones; fetched anew whenever a choice changes which fields there are.

import { $, all, query } from "../dom.js";
import { getHtml } from "../api.js";
import { bindFields, fillFields } from "./fields.js";

export class ProductForm {
  constructor(bench) {
    this.bench = bench;
    this.store = bench.store;
    this.key = "product";
    this.box = $("product-form");
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
    this.sends("#outline-form", "profile");
    this.sends("#model-form", "model");
    this.bindShape();
    for (const button of all("[data-remove]", box)) {
      button.onclick = () => store.commit([{ kind: "remove", path: button.dataset.remove.split(".") }], "Removed").then(this.again);
    }
    for (const button of all("[data-add-band]", box)) {
      const change = { kind: "add", path: button.dataset.bands.split("."), value: JSON.parse(button.dataset.addBand) };
      button.onclick = () => store.commit([change], "Added a zone").then(this.again);
    }
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
