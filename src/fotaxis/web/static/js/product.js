// The form of one product: its shape, glass, skins and zones; fetched anew whenever a choice changes which fields there are.

import { getHtml, post } from "./api.js";
import { bindFields, fillFields } from "./fields.js";

export class ProductForm {
  constructor(bench) {
    this.bench = bench;
    this.key = "product";
    this.box = document.getElementById("product-form");
    this.again = (state) => state && this.load();
  }

  async load() {
    const { bench, box } = this;
    if (!bench.document.others?.some((other) => other.key === this.key)) this.key = "product";
    try {
      box.innerHTML = await getHtml(`${bench.addresses.product}?key=${encodeURIComponent(this.key)}`);
    } catch (error) { bench.failed(error); return; }
    bindFields(bench, box);
    fillFields(box, bench.state);
    for (const button of box.querySelectorAll("[data-product]")) {
      button.onclick = () => { this.key = button.dataset.product; this.load(); };
    }
    for (const select of box.querySelectorAll("select[data-path]")) {
      select.addEventListener("change", () => bench.working.then(this.again));
    }
    this.sends("#outline-form", bench.addresses.profile);
    this.sends("#model-form", bench.addresses.model);
    this.bindShape();
    for (const button of box.querySelectorAll("[data-remove]")) {
      button.onclick = () => bench.commit([{ kind: "remove", path: button.dataset.remove.split(".") }], "Removed").then(this.again);
    }
    for (const button of box.querySelectorAll("[data-add-band]")) {
      const change = { kind: "add", path: button.dataset.bands.split("."), value: JSON.parse(button.dataset.addBand) };
      button.onclick = () => bench.commit([change], "Added a zone").then(this.again);
    }
  }

  sends(form, address) {
    const found = this.box.querySelector(form);
    if (!found) return;
    found.onsubmit = (event) => {
      event.preventDefault();
      const data = new FormData(event.target);
      if (!data.get("file")?.size) data.delete("file");
      this.bench.enqueue(() => post(address, data)).then(this.again);
    };
  }

  bindShape() {
    const shape = this.box.querySelector("#shape-choice"), model = this.box.querySelector("#model-form");
    model.hidden = shape.value !== "model";
    shape.onchange = () => {
      model.hidden = shape.value !== "model";
      if (shape.value === "model") return;
      const data = new FormData();
      data.set("kind", shape.value);
      data.set("key", this.key);
      this.bench.enqueue(() => post(this.bench.addresses.shape, data)).then(this.again);
    };
  }
}
