// Every state so far as a strip of pictures: go back to any, pin it, compare it with the present one.
import { $, all, targetOf } from "../dom.js";
import { getJson, post } from "../api.js";


export class States {
  constructor(bench) {
    this.bench = bench;
    this.store = bench.store;
    this.store.on("adopted", () => this.changed());
    this.mode = "";
    this.other = null;
    for (const button of all("[data-compare]")) {
      button.onclick = () => this.turn(this.mode === button.dataset.compare ? "" : button.dataset.compare);
    }
    $("pin-now").onclick = () => this.pinNow();
    $("pins-only").onclick = () => {
      $("pins-only").setAttribute("aria-pressed", String(!this.pinsOnly));
      if (this.list) this.show();
    };
    $("compare-split").oninput = () => this.split();
    $("states").addEventListener("click", (event) => this.clicked(event));
    $("states").addEventListener("change", ({ target }) => {
      if (target.dataset.pin) this.pin(Number(target.dataset.pin), target.value);
    });
  }

  get pinsOnly() { return $("pins-only").getAttribute("aria-pressed") === "true"; }

  get open() { return !$("panel-states").hidden; }

  async load() {
    try {
      this.list = await getJson(this.store.addresses.states);
    } catch { return; }
    if (this.other !== null && !this.list.states.some(({ number }) => number === this.other)) this.other = null;
    // Without a choice: the newest pin, else the state before this one.
    if (this.other === null) {
      const pinned = this.list.states.filter(({ pin, number }) => pin && number !== this.list.current).pop();
      const here = this.list.states.find(({ number }) => number === this.list.current);
      this.other = pinned?.number ?? here?.parent ?? null;
    }
    this.show();
  }

  show() {
    const { current, states } = this.list;
    const shown = this.pinsOnly ? states.filter(({ pin, number }) => pin || number === current || number === this.other) : states;
    const ordered = [...shown].reverse().sort((a, b) => Number(Boolean(b.pin)) - Number(Boolean(a.pin)));
    $("states").replaceChildren(...ordered.map((state) => this.item(state, current)));
  }

  item({ number, label, pin, when, who }, current) {
    const item = document.createElement("li");
    item.dataset.number = number;
    item.classList.toggle("current", number === current);
    item.classList.toggle("other", number === this.other);
    const picture = Object.assign(document.createElement("img"), { src: `${this.store.addresses.states}/${number}/small.png`, alt: "", loading: "lazy", height: 96 });
    const name = Object.assign(document.createElement("input"), { value: pin, placeholder: "pin: name it", maxLength: 80, ariaLabel: `Name to pin state ${number} under` });
    name.dataset.pin = number;
    const words = Object.assign(document.createElement("p"), { textContent: `${number} · ${when} · ${label}`, title: who ? `${label}, by ${who}` : label });
    const marks = Object.assign(document.createElement("p"), { className: "state-mark", textContent: [number === current ? "present" : number === this.other ? "compared with" : "", who].filter(Boolean).join(" · ") });
    const go = Object.assign(document.createElement("button"), { type: "button", textContent: "Go to", disabled: number === current });
    go.dataset.go = number;
    const against = Object.assign(document.createElement("button"), { type: "button", textContent: "Compare", disabled: number === current });
    against.dataset.against = number;
    const buttons = Object.assign(document.createElement("div"), { className: "state-buttons" });
    buttons.append(go, against);
    item.append(picture, words, marks, name, buttons);
    return item;
  }

  clicked(event) {
    const { go, against } = targetOf(event).dataset;
    if (go) this.store.goTo(Number(go));
    if (against) {
      this.other = Number(against);
      this.show();
      this.turn(this.mode || "split");
    }
  }

  async pin(number, name) {
    this.list = await post(this.store.addresses.pin, { number, name });
    this.show();
  }

  async pinNow() {
    await this.store.working;
    const number = this.store.state.revision;
    const kept = this.list?.states.find((state) => state.number === number)?.pin;
    await this.pin(number, kept || `State ${number}`);
    this.store.note(`Pinned as “${kept || `State ${number}`}”. Rename it under States.`);
  }

  // ---- one state against another, over the frame

  async turn(mode) {
    if (mode && this.other === null) await this.load();
    if (mode && (this.other === null || this.other === this.store.state.revision)) {
      this.store.note("There is no other state to compare with yet: choose one under States.");
      mode = "";
    }
    this.mode = mode;
    for (const button of all("[data-compare]")) button.setAttribute("aria-pressed", String(button.dataset.compare === mode));
    $("compare-note").hidden = !mode;
    $("compare").hidden = !mode;
    document.body.dataset.compare = mode;
    if (!mode) return;
    const picture = $("compare-picture");
    const kind = mode === "difference" ? "difference" : "picture";
    const address = `${this.store.addresses.states}/${this.other}/${kind}.png?side=${Math.round(this.bench.frame.side())}${kind === "difference" ? `&to=${this.store.state.revision}` : ""}`;
    if (picture.getAttribute("src") !== address) {
      $("compare-note").textContent = "Computing the other state…";
      picture.src = address;
      try { await picture.decode(); } catch { return; }
    }
    const frame = $("frame");
    for (const side of ["width", "height"]) picture.style[side] = frame.style[side];
    $("compare-split").hidden = mode !== "split";
    $("compare-note").textContent = {
      flip: `State ${this.other}; let go of C, or press Flip again, for the present one`,
      split: `Left of the line: state ${this.other}. Right: the present state.`,
      difference: "Lighter: the present state is brighter; darker: it is darker. Grey: equal. White and black: 3 stops.",
    }[mode];
    this.split();
    document.body.dataset.compared = address;
  }

  split() {
    const at = Number($("compare-split").value);
    $("compare-picture").style.clipPath = this.mode === "split" ? `inset(0 ${100 - at}% 0 0)` : "none";
  }

  // After a change the comparison is with the new present state.
  changed() {
    if (this.open) this.load();
    if (this.mode === "difference") this.turn("difference");
    else if (this.mode && this.other === this.store.state.revision) this.turn("");
  }
}
