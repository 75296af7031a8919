// Beginning a shot: sizes and look follow the chosen shape until somebody sets them, and looks are shown with that shape.
import { $, all, query } from "./dom.js";
import { post } from "./api.js";
import { OutlineEditor } from "./outline/editor.js";

const form = /** @type {any} */ ($("begin"));
const picture = (shape, look) => `/beginnings/picture.png?${new URLSearchParams({ shape, look })}`;
const touched = new Set();
const AGAIN_MS = 900;

// One picture after the other: each is computed when it is first asked for, and the server makes them in turn anyway.
let waiting = [];
let loading = false;

async function load() {
  if (loading) return;
  loading = true;
  while (waiting.length) {
    const image = waiting.shift();
    const { src } = image.dataset;
    if (image.getAttribute("src") === src) continue;
    image.src = src;
    try {
      await image.decode();
    } catch {
      if (image.dataset.src === src) {
        image.removeAttribute("src");
        waiting.push(image); // busy: asked again
        await new Promise((done) => { setTimeout(done, AGAIN_MS); });
      }
    }
  }
  loading = false;
}

function follow() {
  const shape = query("input[name=shape]:checked", form);
  for (const side of ["height", "width"]) {
    const field = form.elements[`${side}_cm`];
    if (!touched.has(field.name)) field.value = shape.dataset[side];
  }
  form.elements.name.placeholder = `${shape.dataset.name}, size`;
  if (!touched.has("look")) query(`input[name=look][value="${shape.dataset.look}"]`, form).checked = true;
  for (const image of all("img[data-look]", form)) image.dataset.src = picture(shape.value, image.dataset.look);
  const looks = all("img[data-look]", form), shapes = all("img[data-src]:not([data-look])", form);
  waiting = [...shapes.slice(0, 1), ...looks, ...shapes.slice(1)];
  load();
}

form.addEventListener("input", ({ target }) => {
  if (target.name === "shape") follow();
  else touched.add(target.name);
});
follow();

// An outline of one's own: found in a photograph, corrected over it, and sent with the rest.
const shown = $("own-outline"), words = $("own-words");
const usual = words.textContent;
let photo = "";
const keep = (pairs) => { form.elements.outline.value = pairs.map(([h, d]) => `${h}; ${d}`).join("\n"); };
const editor = new OutlineEditor(query("svg", shown), { words: () => {}, dropped: (what, value) => { if (what === "profile") keep(value); } });

function drop() {
  if (photo) URL.revokeObjectURL(photo);
  photo = "";
  shown.hidden = true;
  form.elements.outline.value = "";
  words.textContent = usual;
}

$("drop-outline").onclick = drop;
$("photograph").onchange = async ({ target }) => {
  const file = target.files[0], data = new FormData();
  if (!file) return;
  data.set("file", file);
  data.set("height_cm", form.elements.height_cm.value);
  words.textContent = "Looking for the outline …";
  try {
    const found = await post("/beginnings/outline", data);
    drop();
    photo = URL.createObjectURL(file);
    shown.hidden = false;
    keep(found.points);
    form.elements.width_cm.value = Math.max(...found.points.map(([, d]) => d)).toFixed(2);
    touched.add("width_cm");
    touched.add("height_cm");
    editor.show({ points: found.points, photo: { url: photo, foot: found.foot, top: found.top, size: found.size } });
    words.textContent = found.words;
  } catch (error) { words.textContent = error.message; }
  target.value = "";
};
form.elements.file.onchange = ({ target }) => { $("file-name").textContent = target.files[0]?.name ?? "Outline or model file…"; };
addEventListener("resize", () => editor.draw());
