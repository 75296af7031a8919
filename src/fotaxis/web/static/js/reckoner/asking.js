// Where answers come from: Python in this browser once it has begun, until then and without it the server.
/** @typedef {{key: string, texts: Record<string, string>, unknown: string, inches: boolean, step?: [string, number], shot: any}} Question */

export class NoAnswer extends Error {}

const AWAY = "The server cannot be reached. Open this page once while it can; then it works without it.";

export class Asking {
  #worker = null;
  #ready = false;
  #waiting = new Map();
  #number = 0;

  /** @param {Record<string, string>} addresses */
  constructor(addresses) { this.addresses = addresses; }

  /** Begin Python in this browser; told: called when it has begun, or cannot. @param {(ready: boolean) => void} told */
  begin(told) {
    const { compute, core, python } = this.addresses;
    try {
      this.#worker = new Worker(compute, { type: "module" });
    } catch { told(false); return; }
    this.#worker.addEventListener("error", () => this.#fail(told));
    this.#worker.addEventListener("message", ({ data }) => {
      if (data.ready) { this.#ready = true; told(true); }
      else if (data.failed) this.#fail(told);
      else { this.#waiting.get(data.number)?.(data.answer); this.#waiting.delete(data.number); }
    });
    this.#worker.postMessage({ begin: { core, python } });
  }

  #fail(told) {
    this.#worker = null;
    this.#ready = false;
    for (const done of this.#waiting.values()) done({ problem: AWAY });
    this.#waiting.clear();
    told(false);
  }

  /** @param {Question} question */
  async answer(question) {
    if (this.#ready) return this.#compute(question);
    try {
      const answer = await fetch(`${this.addresses.answer}?${new URLSearchParams({ question: JSON.stringify(question) })}`, { headers: { accept: "application/json" } });
      const told = await answer.json();
      if (!answer.ok && !told.problem) throw new NoAnswer();
      return told;
    } catch {
      if (!this.#worker) throw new NoAnswer(AWAY);
      return this.#compute(question);
    }
  }

  #compute(question) {
    const number = ++this.#number;
    return new Promise((done) => {
      this.#waiting.set(number, done);
      this.#worker.postMessage({ number, question });
    });
  }
}
