// Ways to meet a wish: a row of small pictures with reasons, the space it is lit from in the drawings; one key takes one.
import { $, targetOf } from "../dom.js";
import { getJson, getPacked } from "../api.js";
import { element } from "./svg.js";

export class Ways {
  constructor(bench) {
    this.bench = bench;
    this.store = bench.store;
    this.wish = "";
    $("ways-close").onclick = () => this.close();
    $("ways").addEventListener("keydown", (event) => this.key(event));
    this.store.on("adopted", () => { if (this.wish) this.close(); });
    this.store.on("selected", () => { if (this.store.selected) this.close(); });
  }

  // Ways for a wish, the best first; the first one has the focus: Enter takes it, arrows go to another.
  async open(wish, title) {
    this.caller?.abort();
    const caller = this.caller = new AbortController();
    this.wish = wish;
    $("ways").hidden = false;
    $("ways-title").textContent = title;
    $("ways-about").textContent = "…";
    $("ways-none").hidden = true;
    $("ways-list").replaceChildren();
    this.space(null);
    try {
      const found = await getJson(`${this.store.addresses.proposals}?${new URLSearchParams({ wish })}`, caller.signal);
      if (caller.signal.aborted) return;
      this.show(found);
    } catch (error) {
      if (caller.signal.aborted) return;
      this.close();
      this.store.note(error.message);
    }
  }

  show({ revision, proposals, none, space, about }) {
    this.revision = revision;
    $("ways-about").textContent = [...about, space ? "Drawn on floor and side: the space it can be lit from, at any depth." : ""].join(" ");
    $("ways-none").textContent = none ? `${none[0].toUpperCase()}${none.slice(1)}` : "";
    $("ways-none").hidden = !none;
    this.space(space);
    $("ways-list").replaceChildren(...proposals.map((one, i) => this.card(one, i)));
    $("ways").scrollIntoView({ block: "nearest" });
    /** @type {HTMLElement | null} */ ($("ways-list").firstElementChild)?.focus();
    this.pictures(proposals.length);
  }

  card({ title, reasons }, number) {
    const card = document.createElement("button");
    card.type = "button";
    card.dataset.number = String(number);
    const picture = document.createElement("canvas");
    picture.width = picture.height = 1;
    const words = (name, text, className) => Object.assign(document.createElement(name), { textContent: text, className });
    card.append(picture, words("b", title, ""), words("span", "…", "way-verdict"), words("small", reasons.join(" "), "muted"));
    card.onclick = () => this.take(number);
    return card;
  }

  // One after the other: the best is seen first, and a hand that has chosen waits for none.
  async pictures(count) {
    const { caller, wish } = this;
    for (let i = 0; i < count; i++) {
      try {
        const { header, payload } = await getPacked(`${this.store.addresses.proposals}/${encodeURIComponent(wish)}/${i}`, caller.signal);
        const card = $("ways-list").children[i];
        if (caller.signal.aborted || !card) return;
        const bitmap = await createImageBitmap(new Blob([payload], { type: "image/jpeg" }));
        const canvas = /** @type {HTMLCanvasElement} */ (card.querySelector("canvas"));
        canvas.width = bitmap.width;
        canvas.height = bitmap.height;
        canvas.getContext("2d", { alpha: false }).drawImage(bitmap, 0, 0);
        bitmap.close();
        const verdict = /** @type {HTMLElement} */ (card.querySelector(".way-verdict"));
        verdict.textContent = `${header.state}: ${header.words}`;
        /** @type {HTMLElement} */ (card).dataset.state = header.state;
      } catch {
        return;
      }
    }
  }

  async take(number) {
    const { wish, revision } = this;
    this.close();
    await this.store.takeWay(wish, number, revision);
    $("balance").focus({ preventScroll: true });
  }

  close() {
    this.caller?.abort();
    this.wish = "";
    $("ways").hidden = true;
    this.space(null);
  }

  key(event) {
    const cards = [...$("ways-list").children], at = cards.indexOf(targetOf(event).closest("button"));
    const step = { ArrowRight: 1, ArrowDown: 1, ArrowLeft: -1, ArrowUp: -1 }[event.key];
    if (event.key === "Escape") this.close();
    else if (step && at >= 0) /** @type {HTMLElement} */ (cards[(at + step + cards.length) % cards.length]).focus();
    else return;
    event.preventDefault();
    event.stopPropagation();
  }

  // The space a highlight can be lit from, over both drawings.
  space(space) {
    for (const view of ["floor", "side"]) {
      const corners = space?.[view] ?? [];
      const { drawings } = this.bench;
      const points = corners.map(([a, b]) => drawings.point(view, a, view === "side" ? -b : b).join(",")).join(" ");
      drawings.over(view, "light-space", corners.length > 1 ? [element("polygon", { points })] : []);
    }
  }
}
