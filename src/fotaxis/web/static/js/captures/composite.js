// The composite: at once as a draft, then fine; while something is pulled or painted, as it would be.
import { $ } from "../dom.js";
import { csrf } from "../saving.js";

export class Composite {
  #asked = 0;
  #address = "";
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
      await this.#put(chosen.picture.replace("?", "?side=400&"), turn);
      this.#tell(turn, `${chosen.name} alone, quick`);
      return;
    }
    this.#tell(turn, "Joining…");
    await this.#put(`${state.composite}&fine=1`, turn);
    if (turn !== this.#asked) return;
    const first = await fetch(this.#address, { headers: { accept: "image/jpeg" } });
    if (turn !== this.#asked) return;
    this.fine = first.headers.get("x-picture") === "fine";
    this.#tell(turn, this.fine ? "Fine" : "Quick: fine pictures are in the making");
    if (!this.fine) this.#refine(turn);
  }

  #tell(turn, words) {
    if (turn !== this.#asked) return;
    $("picture-state").textContent = words;
    document.body.dataset.composite = words.startsWith("Joining") ? "" : String(this.page.state.revision);
  }

  /** @param {string} address @param {number} turn */
  async #put(address, turn) {
    const next = new Image();
    next.src = address;
    try { await next.decode(); } catch {
      if (turn === this.#asked) await this.#why(address);
      return;
    }
    if (turn !== this.#asked) return;
    this.#address = address;
    this.picture.src = next.src;
    this.page.hands.draw();
  }

  async #why(address) {
    const answer = await fetch(address, { headers: { accept: "application/json" } });
    if (answer.ok) return;
    const { problem } = await answer.json().catch(() => ({ problem: "the composite could not be made just now." }));
    $("picture-state").textContent = problem;
  }

  async #refine(turn) {
    const answer = await fetch(this.page.addresses.fine, { headers: { accept: "application/json" } }).catch(() => null);
    if (turn !== this.#asked) return;
    if (!answer?.ok) { this.#tell(turn, "Quick: no worker makes fine pictures just now"); return; }
    await this.#put(`${this.page.state.composite}&fine=1&again=1`, turn);
    this.fine = true;
    this.#tell(turn, "Fine");
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
      const url = URL.createObjectURL(await answer.blob());
      const next = new Image();
      next.src = url;
      await next.decode().catch(() => null);
      this.picture.src = url;
      setTimeout(() => URL.revokeObjectURL(url), 2000);
      $("picture-state").textContent = "As it would be";
      document.body.dataset.previewed = String(Number(document.body.dataset.previewed ?? 0) + 1);
    }
    this.#busy = false;
  }
}
