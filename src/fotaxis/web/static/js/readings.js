// Named readings: their marks on the frame, their table, and the histogram.
import { getJson, post } from "./api.js";
import { element } from "./svg.js";

const $ = (id) => document.getElementById(id);

export class Readings {
  constructor(bench) {
    this.bench = bench;
    this.marks = true;
    this.placing = false;
    $("marks-button").onclick = () => this.toggle();
    $("usual-readings").onclick = () => this.usual();
    $("add-spot").onclick = () => this.place(!this.placing);
    for (const button of document.querySelectorAll("[data-add-reading]")) button.onclick = () => this.add(JSON.parse(button.dataset.addReading));
    $("readings-table").addEventListener("click", (event) => {
      const key = event.target.closest("[data-remove]")?.dataset.remove;
      if (key) bench.commit([{ kind: "remove", path: ["readings", key] }], "Removed a reading");
    });
    $("readings-table").addEventListener("change", ({ target }) => {
      if (target.dataset.rename && target.value) bench.commit([{ path: ["readings", target.dataset.rename, "name"], value: target.value }], "Renamed a reading");
    });
  }

  get all() { return this.bench.document.readings ?? []; }

  // Asked for whenever the picture or a power has changed; an answer that is overtaken is dropped.
  ask() {
    clearTimeout(this.timer);
    this.timer = setTimeout(async () => {
      const asked = this.bench.state.revision;
      try {
        const judged = await getJson(this.bench.addresses.judged);
        if (asked !== this.bench.state.revision) return;
        this.bench.judged = judged;
        this.show();
        this.bench.tape.chain();
        this.bench.lights.judged(judged);
        document.body.dataset.judged = asked;
      } catch { /* the next change asks again */ }
    }, 60);
  }

  toggle() {
    this.marks = !this.marks;
    $("marks-button").setAttribute("aria-pressed", String(this.marks));
    this.drawMarks();
  }

  show() {
    const { judged } = this.bench;
    $("between").textContent = judged?.between ?? "";
    $("usual-readings").disabled = !this.bench.state.usualReadings;
    const names = new Map(this.bench.state.lights.map((light) => [light.key, `${light.number} ${light.name}`]));
    const rows = (judged?.readings ?? []).map((reading, i) => {
      const row = document.createElement("tr");
      row.dataset.key = reading.key;
      const cell = (text) => Object.assign(document.createElement("td"), { textContent: text });
      const name = document.createElement("td");
      name.append(Object.assign(document.createElement("input"), { value: reading.name, maxLength: 80, ariaLabel: `Name of reading ${mark(i)}` }));
      name.firstChild.dataset.rename = reading.key;
      const remove = document.createElement("td");
      remove.append(Object.assign(document.createElement("button"), { type: "button", className: "quiet", textContent: "Remove" }));
      remove.firstChild.dataset.remove = reading.key;
      remove.firstChild.setAttribute("aria-label", `Remove ${reading.name}`);
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
    if (!this.marks || !this.bench.judged) {
      group.replaceChildren();
      return;
    }
    group.replaceChildren(...this.bench.judged.readings.filter(({ at }) => at.length).map((reading, i) => {
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

  // One more reading of a kind that needs no place on the frame.
  add(value) {
    let { key } = value;
    while (this.all.some((one) => one.key === key)) key = `${key}-b`;
    this.bench.commit([{ kind: "add", path: ["readings"], value: { ...value, key } }], "Added a reading");
  }

  usual() { return this.bench.enqueue(() => post(this.bench.addresses["usual-readings"], this.bench.view())); }

  place(on) {
    this.placing = on;
    $("add-spot").setAttribute("aria-pressed", String(on));
    document.body.classList.toggle("placing", on);
    if (on) this.bench.note("Click on the frame where to read. On the product the spot stays with it. Escape leaves it.");
    else this.bench.note("");
  }

  // On the product a spot is kept in the product's own measure, so that it stays there when the camera moves.
  async put({ x, y }) {
    this.place(false);
    const number = this.all.filter(({ key }) => key.startsWith("spot")).length + 1;
    let key = `spot-${number}`;
    while (this.all.some((one) => one.key === key)) key = `${key}-b`;
    const { on } = await this.bench.picture.spot({ x, y }, true);
    const value = on ? { kind: "spot", key, name: `Spot ${number}`, ...on } : { kind: "frame", key, name: `Spot ${number}`, x, y };
    this.bench.commit([{ kind: "add", path: ["readings"], value }], "Added a reading");
  }

  // 64 columns of output values; heights by their square root, so that small areas show.
  histogram() {
    const { mixer } = this.bench.picture;
    if (!mixer.ready || $("panel-readings").hidden) return;
    const key = this.bench.picture.alone || (this.bench.light(this.bench.selected) ? this.bench.selected : "");
    const light = key && this.bench.light(key);
    $("histogram-one").textContent = light ? `${light.number} ${light.name} by itself` : "the light that is alone or selected";
    const draw = (counts) => {
      if (!counts) return "";
      const most = Math.sqrt(Math.max(...counts)) || 1;
      return `M0 96${[...counts].map((n, i) => `V${(96 - (90 * Math.sqrt(n)) / most).toFixed(1)}H${(i + 1) * 8}`).join("")}V96Z`;
    };
    $("histogram").querySelector(".whole").setAttribute("d", draw(mixer.histogram()));
    $("histogram").querySelector(".one").setAttribute("d", light ? draw(mixer.histogram(key, this.bench.picture.gainOf(light))) : "");
  }
}

const mark = (i) => String.fromCharCode(97 + (i % 26));
