// Add by picture and key: quick things, whole schools fitted to the product, and everything else by name.
import { post } from "./api.js";

export class Adding {
  constructor(bench, dialog) {
    this.bench = bench;
    this.dialog = dialog;
    dialog.addEventListener("click", (event) => {
      const tile = event.target.closest("[data-add], [data-school]");
      if (tile) this.choose(tile);
    });
    dialog.addEventListener("keydown", (event) => {
      if (event.target.closest("select, input") || event.ctrlKey || event.metaKey) return;
      const tile = [...dialog.querySelectorAll("[data-key]")].find((one) => one.dataset.key === event.key.toLowerCase());
      if (!tile) return;
      event.preventDefault();
      event.stopPropagation();
      this.choose(tile);
    });
    for (const select of dialog.querySelectorAll("[data-add-kind]")) {
      select.onchange = () => {
        const kind = select.value;
        select.value = "";
        if (kind === "lamp file") document.getElementById("lamp-file").click();
        else if (kind) bench.add(kind);
        if (kind) dialog.close();
      };
    }
    document.getElementById("lamp-file").onchange = ({ target }) => {
      const data = new FormData();
      data.set("file", target.files[0]);
      target.value = "";
      bench.enqueue(() => post(bench.addresses.lamp, data));
    };
  }

  open() {
    for (const picture of this.dialog.querySelectorAll("img[data-src]")) {
      const own = picture.closest("[data-school]");
      const address = own ? `${picture.dataset.src}?of=${this.bench.state.settingKey}` : picture.dataset.src;
      if (picture.getAttribute("src") !== address) picture.src = address;
    }
    this.dialog.showModal();
    this.dialog.querySelector(".tile").focus();
  }

  choose(tile) {
    this.dialog.close();
    if (tile.dataset.add) this.bench.add(tile.dataset.add);
    else this.bench.begin(tile.dataset.school);
  }
}
