// The picture: fine layers mixed here, quick pictures while something is dragged, and what stands beside them.
import { $ } from "../dom.js";
import { getJson, getPacked } from "../api.js";
import { Live } from "./live.js";
import { Mixer } from "./mixer.js";
import { drawTrace } from "./trace.js";

const JUDGE_MS = 500;

export class FrameView {
  /** @type {number | undefined} */ #counting;
  /** @type {any} */ #again;

  constructor(bench) {
    this.bench = bench;
    this.store = bench.store;
    this.mixer = new Mixer($("frame"));
    this.line = null;
    this.layersKey = "";
    this.judgedAt = 0;
    this.lastAsked = null;
    $("zebra").onclick = () => this.toggleMark("zebra");
    $("black-point").onclick = () => this.toggleMark("blackPoint");
    $("black-button").onclick = () => this.store.toggleBlack();
    this.store.on("mix", () => this.mix());
    this.store.on("alone", () => {
      $("black-button").setAttribute("aria-pressed", String(this.store.black));
      this.reread();
    });
    this.store.on("adopted", () => { this.bring(); this.reread(); });
    this.store.on("drag", (on) => (on ? this.dragBegins() : this.dragEnds()));
    this.store.on("note", () => this.note());
  }

  get state() { return this.store.state; }

  // Once the rest of the bench stands: the line to the server, and the first picture.
  begin() {
    let opened = false;
    this.live = new Live(this.store.addresses.live, {
      onPicture: (answer) => this.followed(answer),
      onProblem: (text) => this.store.note(text),
      onState: (number) => this.store.elsewhere(number),
      onOpen: () => { this.bench.people.again(); if (opened) this.store.refresh(); opened = true; },
      onHere: (news) => this.bench.people.heard(news),
      onProgress: ({ key, done }) => this.progressed(key, done),
      onSignedOut: (out) => this.store.waiting(out ? "signed out" : ""),
    });
    this.showLast();
    this.size();
    new ResizeObserver(() => this.size()).observe($("frame-box"));
  }

  size() {
    const box = $("frame-box"), { crop_width: w, crop_height: h } = this.store.document.camera;
    $("bench").classList.toggle("landscape", w > h);
    const scale = Math.min(box.clientWidth / w, box.clientHeight / h);
    for (const part of [$("frame"), $("frame-over")]) {
      part.style.width = `${Math.floor(w * scale)}px`;
      part.style.height = `${Math.floor(h * scale)}px`;
    }
    $("frame-over").removeAttribute("hidden");
    this.bench.readingLine.show();
    this.bench.readings.drawMarks();
    if (this.line) this.trace();
  }

  // What stood last on any bench, until something newer is there.
  async showLast() {
    try {
      const answer = await fetch(this.store.addresses["last.jpg"]);
      if (answer.status !== 200) return;
      const bitmap = await createImageBitmap(await answer.blob());
      if (!this.painted && !this.current) {
        const canvas = $("frame");
        canvas.getContext("2d", { alpha: false }).drawImage(bitmap, 0, 0, canvas.width, canvas.height);
        $("tones").textContent = answer.headers.get("x-picture") === "present" ? "as it stood last" : "as it stood before the last change";
        document.body.dataset.last = answer.headers.get("x-picture");
      }
      bitmap.close();
    } catch { /* there is another picture in a moment */ }
  }

  side() {
    const { clientWidth, clientHeight } = $("frame");
    return Math.max(200, Math.min(1200, Math.max(clientWidth, clientHeight)));
  }

  // What is seen now, in words: quick while something moves, refining with the seconds so far, fine.
  tell(state) {
    if (state === document.body.dataset.picture && state !== "refining") return;
    clearInterval(this.#counting);
    document.body.dataset.picture = state;
    $("picture-state").textContent = state;
    if (state !== "refining") return;
    const began = performance.now();
    this.done = 0;
    this.#counting = setInterval(() => this.refining(began), 500);
  }

  // How far the fine picture is, and for how long it has been made.
  refining(began) {
    const far = this.done ? `, ${Math.round(100 * this.done)} %` : "";
    $("picture-state").textContent = `refining${far}, ${Math.round((performance.now() - began) / 1000)} s`;
  }

  progressed(key, done) {
    if (key === this.state.layersKey) this.done = Math.max(this.done ?? 0, done);
  }

  // Are the layers here those of the state?
  get current() { return this.layersKey === this.state.layersKey; }

  // The picture of the state: mixed anew if its layers are here, else fetched.
  bring() {
    if (this.store.dragging) return;
    if (this.current) this.mix();
    else this.fetch();
  }

  mix() {
    this.painted = true;
    if (this.current) this.tell("fine");
    const { black_point: black = 0, white_point: white = 255, soft_shoulder: shoulder = false } = this.state.document.exposure;
    this.mixer.toned({ black, white, shoulder });
    this.mixer.mix(this.store.gains());
    this.tones();
    this.trace();
    this.bench.lights.pictures();
    this.bench.readings.histogram();
    if (!this.store.dragging && this.current) document.body.dataset.settled = this.layersKey;
  }

  tones() {
    const tones = this.mixer.tones();
    const black = tones && this.mixer.blackPoint ? `0: ${tones.black} · 1–8: ${tones.nearly} · ` : "";
    $("tones").textContent = tones ? `${black}darkest ${tones.darkest} · clipped ${tones.clipped}${this.mixer.tone.shoulder ? " · soft shoulder" : ""}` : "";
  }

  trace() {
    if (!this.line) return;
    const gains = this.store.gains();
    const keys = [this.state.roomKey, ...this.state.lights.map((light) => light.key)];
    if (this.line.perLayer && this.line.perLayer.length !== keys.length) return;
    drawTrace($("trace-chart"), $("trace-words"), this.line, keys.map((key) => gains.get(key)), this.state.exposure.floorStops);
  }

  async fetch() {
    const wanted = this.state.layersKey;
    if (this.fetching === wanted) return;
    this.callOff();
    this.fetching = wanted;
    const caller = this.caller = new AbortController();
    delete document.body.dataset.settled;
    this.tell("refining");
    this.ask([], { first: true });
    try {
      const packed = await getPacked(`${this.store.addresses.layers}?side=${Math.round(this.side())}`, caller.signal);
      if (packed.header.layers_key !== this.state.layersKey || this.store.dragging) return;
      this.layersKey = packed.header.layers_key;
      this.mixer.load(packed);
      this.line = packed.header.line;
      this.size();
      this.mix();
      this.bench.readings.ask();
    } catch (error) {
      if (!caller.signal.aborted) {
        this.store.note(error.message);
        setTimeout(() => this.bring(), 1500); // busy, or away: asked again
      }
    } finally {
      if (this.caller === caller) this.fetching = "";
      if (!this.fetching && wanted !== this.state.layersKey) this.bring();
    }
  }

  // The server need not go on with a picture that is out of date.
  callOff() {
    this.caller?.abort();
    this.fetching = "";
  }

  dragBegins() {
    this.callOff();
    this.tell("quick");
    delete document.body.dataset.settled;
  }

  dragEnds() {
    this.live.forget();
    if (this.store.pending === 0) this.bring();
  }

  // While something is dragged: ask for the picture with these changes, newest wins.
  preview(changes, about) { this.ask(changes, about); }

  // The wishes follow, too, though not at every picture: reading them costs more than painting.
  judges() {
    return Boolean(this.store.document.wishes?.length) && performance.now() - this.judgedAt >= JUDGE_MS;
  }

  // Told, they wait a while; not told, they are asked for once more when the hand rests, still holding.
  judgedNow(wishes) {
    clearTimeout(this.#again);
    if (wishes) {
      this.judgedAt = performance.now();
      this.bench.wishes.onFrame(wishes);
    } else if (this.store.document.wishes?.length) {
      this.#again = setTimeout(() => { if (this.store.dragging && this.lastAsked) this.ask(...this.lastAsked); }, JUDGE_MS);
    }
  }

  followed({ header, bitmap, about }) {
    this.line = header.line;
    if (!bitmap) {
      this.trace();
      return;
    }
    // Glass takes seconds at its best: until then, the quick picture.
    if (about?.first ? this.current : !this.store.dragging) {
      bitmap.close();
      return;
    }
    const canvas = $("frame");
    this.painted = true;
    const width = bitmap.displayWidth ?? bitmap.width, height = bitmap.displayHeight ?? bitmap.height; // of a decoded frame, or a bitmap
    if (Math.abs(canvas.width * height - canvas.height * width) > width + height) { // another crop
      canvas.width = width;
      canvas.height = height;
      this.size();
    }
    canvas.getContext("2d", { alpha: false }).drawImage(bitmap, 0, 0, canvas.width, canvas.height);
    bitmap.close();
    if (this.store.dragging) this.judgedNow(header.wishes);
    this.trace(); // measures itself, so before the drawings make the page's layout stale
    if (about?.first) return;
    this.bench.drawings.show(header);
    this.bench.inspector.held(header);
    dispatchEvent(new CustomEvent("fotaxis:followed", { detail: { moved: about?.moved ?? 0, painted: performance.now() } }));
  }

  // A quick picture of the shot with some changes on top.
  ask(changes, about) {
    const judge = this.store.dragging && this.judges();
    this.lastAsked = [changes, about];
    this.live.ask({ revision: this.state.revision, changes, alone: this.store.alone, black: this.store.black, judge, view: this.store.view() }, about);
  }

  // What the reading line reads, without touching the picture.
  read(changes) {
    this.live.ask({ revision: this.state.revision, changes, alone: this.store.alone, black: this.store.black, read: true });
  }

  // The words under the trace belong to the powers.
  reread() {
    if (!this.store.dragging && this.current) this.read([]);
  }

  // What is seen at a place of the frame as it is shown now; attach: told where that lies on the product, too.
  spot({ x, y }, attach = false) {
    const within = (value) => Math.max(0, Math.min(1, value)).toFixed(4);
    const asked = new URLSearchParams({ x: within(x), y: within(y), alone: this.store.alone, black: String(this.store.black), attach: String(attach) });
    return getJson(`${this.store.addresses.spot}?${asked}`);
  }

  // What is said over the frame: the newest word, else what is held, else what keeps the set from being shot.
  note() {
    const { said, held, state } = this.store, note = $("frame-note");
    const shown = said || held?.text || state.exposure.fault;
    note.textContent = shown;
    if (!said && held?.action) {
      const { words, act } = held.action;
      const button = Object.assign(document.createElement("button"), { type: "button", textContent: words });
      button.onclick = () => { this.store.hold(""); act(); };
      note.append(" ", button);
    }
    note.hidden = !shown;
  }

  // Marks the mixer paints over the picture: zebra where it is clipped, dots where black is not quite black.
  toggleMark(mark) {
    this.mixer[mark] = !this.mixer[mark];
    $({ zebra: "zebra", blackPoint: "black-point" }[mark]).setAttribute("aria-pressed", String(this.mixer[mark]));
    this.mixer.paint();
    this.tones();
  }
}
