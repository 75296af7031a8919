// Frames a second and shutter angle of film: angle = 360 x frames a second x shutter time.
import { all, query } from "../dom.js";

const USUAL_ANGLE = 180;

export class Film {
  constructor(bench) {
    this.store = bench.store;
    this.fields = Object.fromEntries(all("[data-film]").map((field) => [field.dataset.film, field]));
    this.store.on("state", () => this.show());
    this.fields.fps.onchange = () => this.pace();
    this.fields.angle.onchange = () => this.open(Number(this.fields.angle.value));
  }

  get exposure() { return this.store.document.exposure; }
  get angle() { return 360 * this.exposure.frames_per_s * this.exposure.shutter_s; }

  show() {
    const { frames_per_s: fps } = this.exposure;
    this.fields.fps.value = fps ?? "";
    this.fields.angle.value = fps ? String(Math.round(this.angle * 10) / 10) : "";
    query("[data-film-angle]").hidden = !fps;
  }

  // Another pace keeps the angle, as on a film camera.
  pace() {
    const fps = Number(this.fields.fps.value) || null;
    const changes = [{ path: ["exposure", "frames_per_s"], value: fps }];
    if (fps) {
      const angle = this.exposure.frames_per_s ? this.angle : USUAL_ANGLE;
      changes.unshift({ path: ["exposure", "shutter_s"], value: angle / 360 / fps });
    }
    this.store.commit(changes, fps ? `Film, ${fps} frames a second` : "Stills");
  }

  open(angle) {
    if (angle > 0) this.store.commit([{ path: ["exposure", "shutter_s"], value: angle / 360 / this.exposure.frames_per_s }], `Shutter angle ${angle}°`);
  }
}
