// Named readings: their marks on the frame, their table, and the histogram.
import { $, all, query, targetOf } from "../dom.js";
import { getJson } from "../api.js";
import { element } from "./svg.js";

const REST_MS = 60, AGAIN_MS = 1500;

export class Readings {
  constructor(bench) {
    this.bench = bench;
    this.store = bench.store;
    this.store.on(["state", "judged"], () => this.show());
    this.store.on(["adopted", "alone"], () => this.ask());
    this.store.on("selected", () => this.histogram());
    this.marks = true;
    this.placing = false;
    $("marks-button").onclick = () => this.toggle();
    $("usual-readings").onclick = () => this.store.addUsualReadings();
    $("add-spot").onclick = () => this.place(!this.placing);
    for (const button of all("[data-add-reading]")) button.onclick = () => this.store.addReading(JSON.parse(button.dataset.addReading));
    $("readings-table").addEventListener("click", (event) => {
      const key = targetOf(event).closest("[data-remove]")?.dataset.remove;
      if (key) this.store.commit([{ kind: "remove", path: ["readings", key] }], "Removed a reading");
    });
    $("readings-table").addEventListener("change", ({ target }) => {
      if (target.dataset.rename && target.value) this.store.commit([{ path: ["readings", target.dataset.rename, "name"], value: target.value }], "Renamed a reading");
    });
  }

  // Asked for whenever the picture or a power has changed. What is overtaken is called off; what found the server busy asks again.
  ask(wait = REST_MS) {
    clearTimeout(this.timer);
    this.caller?.abort();
    this.timer = setTimeout(async () => {
      const asked = this.store.state.revision;
      const caller = this.caller = new AbortController();
      try {
        const { alone, black } = this.store;
        const judged = await getJson(`${this.store.addresses.judged}?${new URLSearchParams({ alone, black: String(black) })}`, caller.signal);
        if (asked !== this.store.state.revision || alone !== this.store.alone || black !== this.store.black) return;
        this.store.setJudged(judged);
        document.body.dataset.judged = asked;
      } catch {
        if (!caller.signal.aborted) this.ask(AGAIN_MS);
      }
    }, wait);
  }

  toggle() {
    this.marks = !this.marks;
    $("marks-button").setAttribute("aria-pressed", String(this.marks));
    this.drawMarks();
  }

  show() {
    const { judged } = this.store;
    $("between").textContent = judged?.between ?? "";
    $("usual-readings").disabled = !this.store.state.usualReadings;
    const names = new Map(this.store.state.lights.map((light) => [light.key, `${light.number} ${light.name}`]));
    const rows = (judged?.readings ?? []).map((reading, i) => {
      const row = document.createElement("tr");
      row.dataset.key = reading.key;
      const cell = (text) => Object.assign(document.createElement("td"), { textContent: text });
      const name = document.createElement("td");
      const field = Object.assign(document.createElement("input"), { value: reading.name, maxLength: 80, ariaLabel: `Name of reading ${mark(i)}` });
      field.dataset.rename = reading.key;
      name.append(field);
      const remove = document.createElement("td");
      const button = Object.assign(document.createElement("button"), { type: "button", className: "quiet", textContent: "Remove" });
      button.dataset.remove = reading.key;
      button.setAttribute("aria-label", `Remove ${reading.name}`);
      remove.append(button);
      const made = reading.shares.map(({ key, percent }) => `${names.get(key) ?? "room"} ${percent}`).join(" · ");
      row.append(cell(mark(i)), name, cell(reading.words), cell(made || reading.about), remove);
      return row;
    });
    const typing = document.activeElement?.matches("#readings-table input");
    if (!typing) $("readings-table").tBodies[0].replaceChildren(...rows);
    this.drawMarks();
  }

  drawMarks() {
    const group = $("reading-marks"), frame = $("frame");
    const w = frame.clientWidth, h = frame.clientHeight;
    if (!this.marks || !this.store.judged) {
      group.replaceChildren();
      return;
    }
    group.replaceChildren(...this.store.judged.readings.filter(({ at }) => at.length).map((reading, i) => {
      const part = element("g", { "data-key": reading.key });
      const [x, y] = reading.at[0];
      if (reading.at.length > 1) part.append(element("polyline", { points: reading.at.map(([a, b]) => `${(a * w).toFixed(1)},${(b * h).toFixed(1)}`).join(" ") }));
      else part.append(element("circle", { cx: x * w, cy: y * h, r: 5 }));
      const [tx, ty] = reading.at[Math.floor(reading.at.length / 2)];
      const left = tx < 0.5 && reading.at.length > 1;
      part.append(element("text", { x: tx * w + (left ? -9 : 9), y: ty * h + 4, "text-anchor": left ? "end" : "start" }, `${mark(i)} ${reading.short}`));
      return part;
    }));
  }

  place(on) {
    this.placing = on;
    $("add-spot").setAttribute("aria-pressed", String(on));
    document.body.classList.toggle("placing", on);
    if (on) this.store.note("Click on the frame where to read. On the product the spot stays with it. Escape leaves it.");
    else this.store.note("");
  }

  // On the product a spot is kept in the product's own measure, so that it stays there when the camera moves.
  async put({ x, y }) {
    this.place(false);
    const number = this.store.readings.filter(({ key }) => key.startsWith("spot")).length + 1;
    const key = `spot-${number}`;
    const { on } = await this.bench.frame.spot({ x, y }, true);
    const value = on ? { kind: "spot", key, name: `Spot ${number}`, ...on } : { kind: "frame", key, name: `Spot ${number}`, x, y };
    this.store.addReading(value);
  }

  // 64 columns of output values; heights by their square root, so that small areas show.
  histogram() {
    const { mixer } = this.bench.frame;
    if (!mixer.ready || $("panel-readings").hidden) return;
    const key = this.store.alone || (this.store.light(this.store.selected) ? this.store.selected : "");
    const light = key && this.store.light(key);
    $("histogram-one").textContent = light ? `${light.number} ${light.name} by itself` : "the light that is alone or selected";
    const draw = (counts) => {
      if (!counts) return "";
      const most = Math.sqrt(Math.max(...counts)) || 1;
      return `M0 96${[...counts].map((n, i) => `V${(96 - (90 * Math.sqrt(n)) / most).toFixed(1)}H${(i + 1) * 8}`).join("")}V96Z`;
    };
    query(".whole", $("histogram")).setAttribute("d", draw(mixer.histogram()));
    query(".one", $("histogram")).setAttribute("d", light ? draw(mixer.histogram(key, this.store.gainOf(light))) : "");
  }
}

export const mark = (i) => String.fromCharCode(97 + (i % 26));
