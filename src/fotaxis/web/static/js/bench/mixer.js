// The frame is the sum of its lights: ready-made linear layers times their gains, through the output curve.

const STEPS = 4096, NOT_QUITE_BLACK = 8;
const OPAQUE = 0xff000000;
let curve = curveOf(0, 255);

// Output values by the level's square root, so that dark tones keep their steps; black and white become 0 and 255.
export function curveOf(black, white) {
  const made = new Uint8ClampedArray(STEPS);
  for (let i = 0; i < STEPS; i++) {
    const x = (i / (STEPS - 1)) ** 2;
    const exact = 255 * (x <= 0.0031308 ? 12.92 * x : 1.055 * x ** (1 / 2.4) - 0.055);
    made[i] = Math.floor(Math.max(0, Math.min(255, ((exact - black) / (white - black)) * 255 + 0.5)));
  }
  return made;
}

// What is too bright goes softly to white: as core/camera/tone.py, where the source is named.
const KNEE = 0.8, TO_WHITE = 0.15;
export function shoulder(levels) {
  const peak = Math.max(levels[0], levels[1], levels[2]);
  if (peak <= KNEE) return;
  const short = 1 - KNEE, low = 1 - (short * short) / (peak + short - KNEE);
  const pale = 1 - 1 / (TO_WHITE * (peak - low) + 1);
  for (let c = 0; c < 3; c++) levels[c] = levels[c] * (low / peak) * (1 - pale) + low * pale;
}

const halves = new Float32Array(65536);
for (let i = 0; i < 65536; i++) {
  const exponent = (i >> 10) & 31;
  const fraction = i & 1023;
  const size = exponent === 0 ? fraction * 2 ** -24 : exponent === 31 ? 0 : (1 + fraction / 1024) * 2 ** (exponent - 15);
  halves[i] = i & 32768 ? -size : size;
}

export class Mixer {
  constructor(canvas) {
    this.canvas = canvas;
    this.context = canvas.getContext("2d", { alpha: false });
    this.layers = new Map();
    this.weights = new Map();
    this.zebra = false;
    this.blackPoint = false;
    this.tone = { black: 0, white: 255, shoulder: false };
  }

  // header: keys, width, height, scales; payload: float16, layer after layer.
  load({ header, payload }) {
    const { width, height, keys, scales } = header;
    const raw = new Uint16Array(payload);
    const count = width * height * 3;
    this.width = width;
    this.height = height;
    this.layers = new Map(keys.map((key, n) => {
      const layer = new Float32Array(count);
      const scale = scales[n];
      for (let i = 0, at = n * count; i < count; i++, at++) layer[i] = halves[raw[at]] * scale;
      return [key, layer];
    }));
    this.sum = new Float32Array(count);
    this.weights = new Map(keys.map((key) => [key, 0]));
    this.image = new ImageData(width, height);
    this.pixels = new Uint32Array(this.image.data.buffer);
  }

  // black, white: output values that become 0 and 255; shoulder: is what is too bright led softly to white? Painted with the next mix.
  toned(tone) {
    if (tone.black !== this.tone.black || tone.white !== this.tone.white) curve = curveOf(tone.black, tone.white);
    this.tone = tone;
  }

  get ready() { return this.layers.size > 0; }

  // gains: key -> factor; only layers whose gain changed are added anew, the last of them while painting.
  mix(gains) {
    if (!this.ready) return;
    const changed = [];
    for (const [key, layer] of this.layers) {
      const change = (gains.get(key) ?? 0) - this.weights.get(key);
      if (change !== 0) changed.push([change, layer]);
      this.weights.set(key, gains.get(key) ?? 0);
    }
    const sum = this.sum;
    while (changed.length > 1) {
      const [change, layer] = changed.pop();
      for (let i = 0; i < sum.length; i++) sum[i] += change * layer[i];
    }
    if (changed.length) this.paint(...changed[0]);
    else this.paint();
  }

  // Paints the sum; with a change, adds that much of a layer in the same pass over the pixels.
  paint(change = 0, layer = this.sum) {
    if (!this.ready) return;
    if (this.canvas.width !== this.width || this.canvas.height !== this.height) {
      this.canvas.width = this.width;
      this.canvas.height = this.height;
    }
    const { sum, pixels } = this;
    const top = STEPS - 1;
    const levels = [0, 0, 0], soft = this.tone.shoulder;
    for (let i = 0, p = 0; i < sum.length; i += 3, p++) {
      let r = (sum[i] += change * layer[i]);
      let g = (sum[i + 1] += change * layer[i + 1]);
      let b = (sum[i + 2] += change * layer[i + 2]);
      if (soft && (r > KNEE || g > KNEE || b > KNEE)) {
        levels[0] = r;
        levels[1] = g;
        levels[2] = b;
        shoulder(levels);
        [r, g, b] = levels;
      }
      const red = curve[r >= 1 ? top : r > 0 ? (Math.sqrt(r) * top + 0.5) | 0 : 0];
      const green = g === r ? red : curve[g >= 1 ? top : g > 0 ? (Math.sqrt(g) * top + 0.5) | 0 : 0];
      const blue = b === g ? green : curve[b >= 1 ? top : b > 0 ? (Math.sqrt(b) * top + 0.5) | 0 : 0];
      pixels[p] = OPAQUE | (blue << 16) | (green << 8) | red; // little-endian, as every browser's processor is
    }
    if (this.zebra) this.stripe(this.image.data);
    if (this.blackPoint) this.dot();
    this.context.putImageData(this.image, 0, 0);
  }

  // Output value below which a hundredth of the picture lies, and the share of it in which a channel is at 255.
  tones() {
    if (!this.ready) return null;
    const counts = new Uint32Array(256);
    let all = 0, clipped = 0;
    for (let p = 0; p < this.pixels.length; p += 5, all++) {
      const pixel = this.pixels[p], most = Math.max(pixel & 255, (pixel >> 8) & 255, (pixel >> 16) & 255);
      counts[most] += 1;
      if (most === 255) clipped += 1;
    }
    let darkest = 0;
    for (let below = counts[0]; below < all / 100; below += counts[darkest]) darkest += 1;
    let nearly = 0;
    for (let value = 1; value <= NOT_QUITE_BLACK; value++) nearly += counts[value];
    const percent = (count) => { const share = (100 * count) / all; return `${share < 10 ? share.toFixed(1) : Math.round(share)} %`; };
    return { darkest, clipped: percent(clipped), black: percent(counts[0]), nearly: percent(nearly) };
  }

  // Counts of the brightest channel's output values in 64 columns, of the whole or of one light at a gain.
  histogram(key, gain = 1) {
    const counts = new Uint32Array(64), layer = key ? this.layers.get(key) : this.sum, top = STEPS - 1;
    if (!layer) return null;
    for (let i = 0; i < layer.length; i += 9) {
      const most = Math.max(layer[i], layer[i + 1], layer[i + 2]) * gain;
      counts[curve[(Math.sqrt(Math.max(0, Math.min(1, most))) * top + 0.5) | 0] >> 2] += 1;
    }
    return counts;
  }

  // Dots where black is not quite black: brightest channel 1 to 8.
  dot() {
    const { sum, pixels, width } = this, top = STEPS - 1;
    for (let i = 0, p = 0; i < sum.length; i += 3, p++) {
      const x = p % width, y = (p / width) | 0;
      if (x % 6 || y % 6) continue;
      const most = curve[(Math.sqrt(Math.max(0, Math.min(1, Math.max(sum[i], sum[i + 1], sum[i + 2])))) * top + 0.5) | 0];
      if (most < 1 || most > NOT_QUITE_BLACK) continue;
      for (let dy = 0; dy < 2; dy++) for (let dx = 0; dx < 2; dx++) if (x + dx < width) pixels[p + dy * width + dx] = 0xffb0b0b0;
    }
  }

  stripe(data) {
    const { sum, width } = this;
    for (let i = 0, p = 0, o = 0; i < sum.length; i += 3, p++, o += 4) {
      if (Math.max(sum[i], sum[i + 1], sum[i + 2]) < 1) continue;
      if (((p % width) + Math.floor(p / width)) % 8 < 4) data[o] = data[o + 1] = data[o + 2] = 0;
    }
  }

  // One light alone as a small picture.
  small(canvas, key, gain) {
    const layer = this.layers.get(key);
    if (!layer) return;
    const { width, height } = this;
    const w = canvas.width, h = Math.max(1, Math.round((w * height) / width));
    if (canvas.height !== h) canvas.height = h;
    const image = new ImageData(w, h);
    const step = width / w;
    const part = Math.max(1, Math.floor(step / 2));
    const top = STEPS - 1;
    for (let y = 0, o = 0; y < h; y++) {
      for (let x = 0; x < w; x++, o += 4) {
        for (let c = 0; c < 3; c++) {
          let level = 0, count = 0;
          for (let dy = 0; dy < step; dy += part) {
            for (let dx = 0; dx < step; dx += part, count++) {
              const column = Math.min(width - 1, (x * step + dx) | 0), row = Math.min(height - 1, (y * step + dy) | 0);
              level += layer[(row * width + column) * 3 + c];
            }
          }
          image.data[o + c] = curve[(Math.sqrt(Math.min(1, (level / count) * gain)) * top + 0.5) | 0];
        }
        image.data[o + 3] = 255;
      }
    }
    canvas.getContext("2d", { alpha: false }).putImageData(image, 0, 0);
  }
}
