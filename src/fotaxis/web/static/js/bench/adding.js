// Add by picture and key: quick things, lighting set-ups fitted to the product, and everything by any of its names.
import { $, all, query, targetOf } from "../dom.js";

const MOST_FOUND = 8;

export class Adding {
  constructor(bench, dialog) {
    this.store = bench.store;
    this.dialog = dialog;
    // Pictures that are still being made when the dialog closes are called off.
    dialog.addEventListener("close", () => {
      for (const picture of all("img[data-src]", dialog)) if (!picture.complete) picture.removeAttribute("src");
    });
    dialog.addEventListener("click", (event) => {
      const tile = targetOf(event).closest("[data-add], [data-school]");
      if (tile) this.choose(tile);
    });
    dialog.addEventListener("keydown", (event) => {
      if (targetOf(event).closest("select, input") || event.ctrlKey || event.metaKey) return;
      if (event.key === "/") {
        event.preventDefault();
        $("add-search").focus();
        return;
      }
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
    this.names = JSON.parse($("addable").textContent);
    $("add-search").oninput = () => this.search();
    $("add-search").onkeydown = (event) => {
      if (event.key !== "Enter") return;
      event.preventDefault();
      query("#add-found button", dialog)?.click();
    };
    $("lamp-file").onchange = ({ target }) => {
      const data = new FormData();
      data.set("file", target.files[0]);
      target.value = "";
      this.store.send("lamp", data);
    };
  }

  // Every word that is typed must begin a word of a thing's names; its own name counts before what else it is called.
  search() {
    const typed = $("add-search").value.toLowerCase().split(/\s+/).filter(Boolean);
    const begins = (text, word) => text.toLowerCase().split(/[^a-z0-9°]+/).some((one) => one.startsWith(word));
    const rank = ({ name, also }) => [name, `${name} ${also}`].findIndex((text) => typed.every((word) => begins(text, word)));
    const ranked = typed.length ? this.names.map((one) => ({ one, at: rank(one) })).filter(({ at }) => at >= 0) : [];
    const found = ranked.sort((a, b) => a.at - b.at).slice(0, MOST_FOUND);
    $("add-found").hidden = !typed.length;
    $("add-found").replaceChildren(...found.map(({ one }) => {
      const row = document.createElement("li");
      const button = Object.assign(document.createElement("button"), { type: "button", textContent: one.name });
      button.onclick = () => this.take(one);
      row.append(button, Object.assign(document.createElement("span"), { className: "muted", textContent: one.also }));
      return row;
    }));
    if (typed.length && !found.length) $("add-found").replaceChildren(Object.assign(document.createElement("li"), { textContent: "Nothing goes by that name here." }));
  }

  take({ kind, setup }) {
    this.dialog.close();
    if (setup) this.store.applySetup(setup);
    else this.store.add(kind);
  }

  open() {
    for (const picture of all("img[data-src]", this.dialog)) {
      const own = picture.closest("[data-school]");
      const address = own ? `${picture.dataset.src}?of=${this.store.state.settingKey}` : picture.dataset.src;
      if (picture.getAttribute("src") !== address) picture.src = address;
    }
    $("add-search").value = "";
    this.search();
    this.dialog.showModal();
    query(".tile", this.dialog).focus();
  }

  choose(tile) {
    this.dialog.close();
    if (tile.dataset.add) this.store.add(tile.dataset.add);
    else this.store.applySetup(tile.dataset.school);
  }
}
