// The composite: at once as a draft, then fine; while something is pulled or painted, as it would be.
import { $ } from "../dom.js";
import { csrf, pause } from "../saving.js";

const MOST_TRIES = 20;

export class Composite {
  #asked = 0;
  #trying = null; // what waits to be tried while an answer is under way
  #busy = false;

  constructor(page) {
    this.page = page;
    this.alone = false;
    this.fine = false;
  }

  get picture() { return $("composite"); }

  async show() {
    const { state, chosen } = this.page, any = state.captures.some(({ shown }) => shown);
    const turn = ++this.#asked;
    this.picture.hidden = !any && !(this.alone && chosen);
    if (this.picture.hidden) { $("picture-state").textContent = ""; return; }
    if (this.alone && chosen) {
      if (await this.#put(chosen.picture.replace("?", "?side=400&"), turn)) this.#tell(turn, `${chosen.name} alone, quick`);
      return;
    }
    this.#tell(turn, "Joining…");
    const found = await this.#put(`${state.composite}&fine=1`, turn);
    if (!found) return;
    this.fine = found === "fine";
    this.#tell(turn, this.fine ? "Fine" : "Quick: fine pictures are in the making");
    if (!this.fine) this.#refine(turn);
  }

  #tell(turn, words) {
    if (turn !== this.#asked) return;
    $("picture-state").textContent = words;
    document.body.dataset.composite = words.startsWith("Joining") ? "" : String(this.page.state.revision);
  }

  /** Show what an address gives, and say which picture it is; '' where it gives none, or another was asked for meanwhile. */
  async #put(address, turn) {
    const answer = await fetch(address, { headers: { accept: "application/json, image/jpeg" } }).catch(() => null);
    if (!answer || turn !== this.#asked) return "";
    if (!answer.ok) {
      const { problem } = await answer.json().catch(() => ({ problem: "The composite could not be made just now." }));
      this.#tell(turn, problem);
      return "";
    }
    const shown = await this.#paint(await answer.blob(), () => turn === this.#asked);
    return shown ? answer.headers.get("x-picture") ?? "quick" : "";
  }

  /** Paint a picture, unless another is wanted by the time it is decoded. */
  async #paint(blob, wanted) {
    const url = URL.createObjectURL(blob), next = new Image();
    next.src = url;
    await next.decode().catch(() => null);
    setTimeout(() => URL.revokeObjectURL(url), 4000);
    if (!wanted()) return false;
    this.picture.src = url;
    await this.picture.decode().catch(() => null);
    this.page.hands.draw();
    return true;
  }

  async #refine(turn) {
    let answer = null;
    for (let tries = 0; tries < MOST_TRIES && turn === this.#asked; tries++) {
      answer = await fetch(this.page.addresses.fine, { headers: { accept: "application/json" } }).catch(() => null);
      if (answer?.status !== 503) break;
      await pause(1500); // heavy sets take workers longer than one question waits
    }
    if (turn !== this.#asked) return;
    if (!answer?.ok) { this.#tell(turn, "Quick: no worker makes fine pictures just now"); return; }
    const found = await this.#put(`${this.page.state.composite}&fine=1`, turn);
    if (!found) return;
    this.fine = found === "fine";
    this.#tell(turn, this.fine ? "Fine" : "Quick");
  }

  /** What something would do, not kept: the newest wish only, one at a time. @param {any[]} changes */
  async preview(changes) {
    this.#trying = changes;
    if (this.#busy) return;
    this.#busy = true;
    ++this.#asked;
    while (this.#trying) {
      const tried = this.#trying;
      this.#trying = null;
      const answer = await fetch(this.page.addresses.preview, {
        method: "POST", body: JSON.stringify({ changes: tried, fine: this.fine, side: this.fine ? 800 : 400 }),
        headers: { "content-type": "application/json", "x-csrf-token": csrf(), accept: "image/jpeg" },
      }).catch(() => null);
      if (!answer?.ok) continue;
      await this.#paint(await answer.blob(), () => true);
      $("picture-state").textContent = "As it would be";
      document.body.dataset.previewed = String(Number(document.body.dataset.previewed ?? 0) + 1);
    }
    this.#busy = false;
  }
}
