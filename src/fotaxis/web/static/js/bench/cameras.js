// Framings of one set under names, a part of the frame made the frame, and a loupe that shows the fine picture pixel for pixel.
import { $, all, query } from "../dom.js";
import { getJson } from "../api.js";
import { hold } from "../grip.js";
import { element } from "./svg.js";

const LEAST_PART = 0.05, SIDE = 1600, LOUPE_PX = 240, ALIKE = 0.04;
const RATIOS = [[1, 1], [4, 5], [5, 4], [2, 3], [3, 2], [3, 4], [4, 3], [9, 16], [16, 9]];

// The part of a sensor (mm) that a crop uses, as the picture stands.
function used({ sensor_width_mm: width, sensor_height_mm: height }, ratio) {
  const [w, h] = (ratio < 1) !== (width < height) ? [height, width] : [width, height];
  return w / h < ratio ? [w, w / ratio] : [h * ratio, h];
}

// The camera that takes a part of its own frame for the whole: x, y of its middle and its width and height, all 0..1.
export function framingOf(camera, { x, y, width, height }) {
  const away = 10 * Math.hypot(camera.distance_cm, camera.height_cm - camera.aim_height_cm, camera.side_cm - camera.aim_side_cm);
  const [w, h] = used(camera, camera.crop_width / camera.crop_height);
  // A lens turned against the sensor draws as a longer one does, see the camera's image_m.
  const square = (degrees) => Math.sin((degrees * Math.PI) / 180) ** 2;
  const straight = Math.sqrt(1 - square(camera.tilt_deg ?? 0) - square(camera.swing_deg ?? 0)), image = 1 / (straight / camera.focal_length_mm - 1 / away);
  const exact = (width * w) / (height * h);
  const [wide, high] = RATIOS.find(([a, b]) => Math.abs(a / b / exact - 1) < ALIKE) ?? [Math.round(exact * 100) / 100, 1];
  const [newWidth, newHeight] = used(camera, wide / high);
  const behind = Math.min(newWidth / (width * w), newHeight / (height * h)) * image;
  const round = (value) => Math.round(value * 100) / 100;
  // The same shift moves a longer lens's frame less: the axis goes the rest of the way.
  const right = camera.shift_right_mm ?? 0, up = camera.shift_up_mm ?? 0, less = 1 - image / behind;
  return {
    ...camera, crop_width: wide, crop_height: high, focal_length_mm: round(straight / (1 / behind + 1 / away)),
    aim_side_cm: round(camera.aim_side_cm + (((x - 0.5) * w + right * less) * away) / image / 10),
    aim_height_cm: round(camera.aim_height_cm - (((y - 0.5) * h - up * less) * away) / image / 10),
  };
}

export class Cameras {
  constructor(bench) {
    this.store = bench.store;
    this.frame = $("frame");
    this.store.on("state", () => this.show());
    $("keep-camera").onsubmit = (event) => {
      event.preventDefault();
      const name = event.target.elements.name.value.trim();
      if (!name) return;
      this.store.commit([{ kind: "add", path: ["cameras"], value: { name, camera: this.store.document.camera } }], `Framing ${name}`);
      event.target.reset();
    };
    $("part-button").onclick = () => this.parting($("part-button").getAttribute("aria-pressed") !== "true");
    this.frame.addEventListener("pointerdown", (event) => this.begins(event), { capture: true });
    $("loupe-button").onclick = () => this.look(!this.looking);
    this.frame.addEventListener("pointermove", (event) => this.follow(event));
    this.frame.addEventListener("pointerleave", () => { $("loupe").hidden = true; });
    this.store.on("adopted", () => { if (this.looking) this.fetch(); });
  }

  show() {
    const { cameras = [], camera } = this.store.document, now = JSON.stringify(camera);
    $("cameras").hidden = !cameras.length;
    $("cameras").replaceChildren(...cameras.flatMap((one, i) => {
      const chosen = JSON.stringify(one.camera) === now;
      const take = Object.assign(document.createElement("button"), { type: "button", textContent: one.name });
      take.setAttribute("aria-pressed", String(chosen));
      take.onclick = () => this.store.commit([{ path: ["camera"], value: one.camera }], `Framing ${one.name}`);
      const drop = Object.assign(document.createElement("button"), { type: "button", className: "quiet", textContent: "×", title: `Forget ${one.name}` });
      drop.setAttribute("aria-label", `Forget the framing ${one.name}`);
      drop.onclick = () => this.store.commit([{ kind: "remove", path: ["cameras", String(i)] }], `Forgot the framing ${one.name}`);
      return [take, drop];
    }));
  }

  // ---- a part of the frame

  parting(on) {
    $("part-button").setAttribute("aria-pressed", String(on));
    document.body.classList.toggle("parting", on);
    this.store.note(on ? "Drag a rectangle over the frame: it becomes the frame. Escape leaves this." : "");
  }

  get isParting() { return document.body.classList.contains("parting"); }

  begins(event) {
    if (!this.isParting || event.button !== 0) return;
    event.stopImmediatePropagation();
    const rect = this.frame.getBoundingClientRect();
    const place = ({ clientX, clientY }) => [(clientX - rect.left) / rect.width, (clientY - rect.top) / rect.height].map((v) => Math.max(0, Math.min(1, v)));
    const from = place(event), box = element("rect", { class: "frame-part" });
    let part = null;
    $("frame-over").append(box);
    const move = (_dx, _dy, now) => {
      const to = place(now), [left, top] = [0, 1].map((i) => Math.min(from[i], to[i])), [width, height] = [0, 1].map((i) => Math.abs(from[i] - to[i]));
      part = { x: left + width / 2, y: top + height / 2, width, height };
      const shape = { x: left * rect.width, y: top * rect.height, width: width * rect.width, height: height * rect.height };
      for (const [name, value] of Object.entries(shape)) box.setAttribute(name, String(value));
    };
    const done = (_moved, kept) => {
      box.remove();
      this.parting(false);
      if (!kept || !part || Math.min(part.width, part.height) < LEAST_PART) return;
      this.store.commit([{ path: ["camera"], value: framingOf(this.store.document.camera, part) }], "Framed a part");
    };
    hold(this.frame, event, { least: 0, move, done });
  }

  // ---- the loupe

  look(on) {
    this.looking = on;
    $("loupe-button").setAttribute("aria-pressed", String(on));
    $("loupe").hidden = true;
    if (on) this.fetch();
  }

  // The finest picture there is, and the fine one as soon as it is made.
  async fetch() {
    const { layersKey, settingKey, document: { exposure } } = this.store.state;
    const key = `${layersKey}${settingKey}${this.store.state.revision}`, address = this.store.addresses["picture.png"];
    if (!address || this.shown === key || !exposure) return;
    this.shown = key;
    const show = (mark) => { $("loupe").style.backgroundImage = `url("${address}?side=${SIDE}&v=${mark}")`; };
    show(`${this.store.state.revision}-quick`);
    try {
      await getJson(`${address.replace(/\.png$/, "/fine")}?side=${SIDE}`);
      if (this.shown === key) show(`${this.store.state.revision}-fine`);
    } catch { this.shown = ""; }
  }

  follow(event) {
    const loupe = $("loupe");
    loupe.hidden = !this.looking || this.store.dragging;
    if (loupe.hidden) return;
    const rect = this.frame.getBoundingClientRect(), box = query("#frame-box").getBoundingClientRect();
    const x = (event.clientX - rect.left) / rect.width, y = (event.clientY - rect.top) / rect.height;
    const width = rect.width >= rect.height ? SIDE : (SIDE * rect.width) / rect.height, height = (width * rect.height) / rect.width;
    const sharp = 1 / devicePixelRatio;
    loupe.style.backgroundSize = `${width * sharp}px ${height * sharp}px`;
    loupe.style.backgroundPosition = `${LOUPE_PX / 2 - x * width * sharp}px ${LOUPE_PX / 2 - y * height * sharp}px`;
    loupe.style.left = `${Math.max(4, Math.min(box.width - LOUPE_PX - 4, event.clientX - box.left + 24))}px`;
    loupe.style.top = `${Math.max(4, Math.min(box.height - LOUPE_PX - 4, event.clientY - box.top - LOUPE_PX / 2))}px`;
    for (const other of all("#spot")) other.hidden = true;
  }
}
