// Add by picture and key: quick things, whole schools fitted to the product, and everything else by name.
import { $, all, query, targetOf } from "../dom.js";

export class Adding {
  constructor(bench, dialog) {
    this.store = bench.store;
    this.dialog = dialog;
    dialog.addEventListener("click", (event) => {
      const tile = targetOf(event).closest("[data-add], [data-school]");
      if (tile) this.choose(tile);
    });
    dialog.addEventListener("keydown", (event) => {
      if (targetOf(event).closest("select, input") || event.ctrlKey || event.metaKey) return;
      const tile = all("[data-key]", dialog).find((one) => one.dataset.key === event.key.toLowerCase());
      if (!tile) return;
      event.preventDefault();
      event.stopPropagation();
      this.choose(tile);
    });
    for (const select of all("[data-add-kind]", dialog)) {
      select.onchange = () => {
        const kind = select.value;
        select.value = "";
        if (kind === "lamp file") $("lamp-file").click();
        else if (kind) this.store.add(kind);
        if (kind) dialog.close();
      };
    }
    $("lamp-file").onchange = ({ target }) => {
      const data = new FormData();
      data.set("file", target.files[0]);
      target.value = "";
      this.store.send("lamp", data);
    };
  }

  open() {
    for (const picture of all("img[data-src]", this.dialog)) {
      const own = picture.closest("[data-school]");
      const address = own ? `${picture.dataset.src}?of=${this.store.state.settingKey}` : picture.dataset.src;
      if (picture.getAttribute("src") !== address) picture.src = address;
    }
    this.dialog.showModal();
    query(".tile", this.dialog).focus();
  }

  choose(tile) {
    this.dialog.close();
    if (tile.dataset.add) this.store.add(tile.dataset.add);
    else this.store.applySetup(tile.dataset.school);
  }
}
