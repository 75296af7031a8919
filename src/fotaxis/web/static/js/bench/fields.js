// Inputs bound to places in the shot: data-path="camera.distance_cm", things by their key.
import { all } from "../dom.js";
import { reach } from "./paths.js";

const toHex = (levels) => "#" + levels.map((level) => {
  const v = level <= 0.0031308 ? 12.92 * level : 1.055 * level ** (1 / 2.4) - 0.055;
  return Math.round(Math.max(0, Math.min(1, v)) * 255).toString(16).padStart(2, "0");
}).join("");

const fromHex = (hex) => [1, 3, 5].map((at) => {
  const v = parseInt(hex.slice(at, at + 2), 16) / 255;
  return Math.round((v <= 0.04045 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4) * 1e4) / 1e4;
});

const CM_PER_INCH = 2.54;
const inches = (field) => field.dataset.unit === "cm" && document.body.dataset.unit === "in";

// The unit behind each field of a length, and its steps: quarters of an inch or what the field has in centimetres.
export function unitOf(root) {
  for (const field of all("input[data-unit=cm]", root)) {
    field.dataset.step ??= field.step;
    field.step = inches(field) ? 0.25 : field.dataset.step;
    for (const side of ["min", "max"]) {
      field.dataset[side] ??= field[side];
      field[side] = field.dataset[side] === "" ? "" : inches(field) ? Math.round((field.dataset[side] / CM_PER_INCH) * 100) / 100 : field.dataset[side];
    }
    const unit = field.parentElement.querySelector("i");
    if (unit) unit.textContent = inches(field) ? "in" : "cm";
  }
}

const shown = (value) => (typeof value === "number" ? String(Math.round(value * 1000) / 1000) : value ?? "");

// What a field shows where the shot says nothing comes with the state, as everything a part begins as.
export function fillFields(root, state) {
  const { document: document_, defaults: { plain } } = state;
  for (const field of all("[data-path]", root)) {
    if (field === document.activeElement && field.dataset.touched) continue;
    const typed = refused.get(field.dataset.path);
    field.classList.toggle("refused", Boolean(typed));
    if (typed) {
      field.value = typed.shown;
      continue;
    }
    const value = reach(document_, field.dataset.path.split("."));
    if (field.dataset.kind === "colour") field.value = toHex(value ?? field.dataset.default?.split(" ").map(Number) ?? [0.5, 0.5, 0.5]);
    else if (field.dataset.kind === "item") field.value = value?.[field.dataset.item] ?? "";
    else if (field.dataset.kind === "flag") field.checked = Boolean(value ?? plain[field.dataset.path.split(".").slice(2).join(".")]);
    else if (field.dataset.kind === "part") field.checked = (value ?? null) !== null;
    else if (field.dataset.kind === "turn") turned(field, value);
    else if (field.dataset.kind === "share") { field.value = value ?? 0; said(field); }
    else if (field.tagName === "SELECT" && field.dataset.kind === "number") nearest(field, value);
    else if (inches(field) && typeof value === "number") field.value = Math.round((value / CM_PER_INCH) * 100) / 100;
    else field.value = shown(value ?? plain[field.dataset.path.split(".").slice(2).join(".")] ?? plain[field.dataset.path] ?? "");
  }
}

// Fields of a part that is not there are not shown.
export function showParts(root, document_) {
  for (const part of all("[data-part]", root)) {
    part.hidden = (reach(document_, part.dataset.part.split(".")) ?? null) === null;
  }
}

function said(field) {
  const output = field.closest("label")?.querySelector("output");
  if (output) output.textContent = `${Math.round(100 * field.value)} %`;
}

// A filter's turn out of a list; one that is not in it is added.
function turned(select, filter) {
  const wanted = filter ? String(filter.turn_deg) : "";
  if (![...select.options].some((option) => option.value === wanted)) {
    select.add(Object.assign(document.createElement("option"), { value: wanted, textContent: `${shown(filter.turn_deg)}°` }));
  }
  select.value = wanted;
}

function nearest(select, value) {
  let best = 0;
  [...select.options].forEach((option, i) => {
    if (Math.abs(Math.log(option.value / value)) < Math.abs(Math.log(select.options[best].value / value))) best = i;
  });
  select.selectedIndex = best;
}

// Choices that put in, replace or take away a whole part: a material, a glass, its liquid.
function wholePart(field, path, value, { document: document_, defaults }) {
  const parent = path.slice(0, -1);
  if (path[path.length - 1] === "material" && path[0] !== "cards") {
    const before = reach(document_, parent) ?? {};
    return value === (before.material ?? "custom") ? null : { path: parent, value: value === "custom" ? defaults.skin : { material: value } };
  }
  const owner = path.slice(0, -2);
  if (field.dataset.kind === "glass") {
    const before = reach(document_, parent);
    if (!value) return before ? [{ path: [...owner, "liquid"], value: null }, { path: parent, value: null }] : null;
    return { path: parent, value: { ...defaults.glass, ...before, index: null, left_per_cm: null, glass: value } };
  }
  if (field.dataset.kind === "liquid") {
    const before = reach(document_, parent);
    if (!value) return { path: parent, value: null };
    const level = defaults.levels[owner[0] === "subject" ? "product" : owner[1]];
    return { path: parent, value: { level_cm: level, water_share: 0, ...before, index: null, left_per_cm: null, liquid: value } };
  }
  return undefined;
}

// What a part begins as when it is put on. A lamp's second place follows from its first.
function partOf(path, { document: document_, defaults }) {
  const name = path.at(-1);
  if (name !== "to") return defaults.parts[name];
  const { place, turn_deg, tilt_deg } = reach(document_, path.slice(0, -1));
  return { place: { ...place, y_cm: place.y_cm + defaults.movedUpCm }, turn_deg, tilt_deg };
}

const kit = () => JSON.parse(document.getElementById("kit")?.textContent ?? "{}");

// A piece of the kit brings what is known of it: a head its range, steps and strength.
function ofKit(field, path) {
  const brings = Object.entries(kit()[field.dataset.kit]?.[field.value] ?? {});
  return [{ path, value: field.value }, ...brings.map(([name, value]) => ({ path: [...path.slice(0, -1), name], value }))];
}

// Bodies and lenses are chosen for what they set, and not kept themselves.
function setsOfKit(store, root) {
  for (const field of all("[data-kit-sets]", root)) {
    if (field.dataset.bound) continue;
    field.dataset.bound = "yes";
    field.addEventListener("change", () => {
      const { kitSets: what } = field.dataset, brings = kit()[what]?.[field.value] ?? {}, name = field.value;
      if (brings.focal_length_mm && store.framing?.keeps) store.framing.frame(brings);
      else if (name) store.commit(Object.entries(brings).map(([at, value]) => ({ path: ["camera", at], value })), name);
    });
  }
}

function changeOf(field, state) {
  const document_ = state.document;
  const path = field.dataset.path.split(".");
  if (field.dataset.kind === "kit") return ofKit(field, path);
  let value = field.value;
  const named = wholePart(field, path, value, state);
  if (named !== undefined) return named;
  if (field.dataset.kind === "item") {
    value = [...(reach(document_, path) ?? [])];
    value[field.dataset.item] = field.value;
    value = value.filter(Boolean);
  } else if (field.dataset.kind === "flag") value = field.checked;
  else if (field.dataset.kind === "share") value = Number(value);
  else if (field.dataset.kind === "colour") value = fromHex(value);
  else if (field.type === "number" || field.dataset.kind === "number") {
    if (value === "") return null;
    value = Number(value) * (inches(field) ? CM_PER_INCH : 1);
    if (inches(field)) value = Math.round(value * 1000) / 1000;
  }
  if (field.dataset.kind === "part") {
    return { path, value: field.checked ? partOf(path, state) : null };
  }
  if (field.dataset.kind === "turn") {
    return { path, value: value === "" ? null : { ...reach(document_, path), turn_deg: Number(value) } };
  }
  if (field.dataset.path === "riser.height_cm" && value === 0) return { path: ["riser"], value: null };
  if (path[path.length - 1] === "kind" && path.includes("calibration")) {
    const before = reach(document_, path.slice(0, -1));
    if ((before?.kind ?? "as usual") === value) return null;
    if (value === "as usual") return { path: path.slice(0, -1), value: null };
    const kind = { path: path.slice(0, -1), value: state.defaults.calibration[value] };
    // What is told in candela burns on, until somebody says otherwise.
    return value === "candela" ? [kind, { path: [...path.slice(0, -2), "continuous"], value: true }] : kind;
  }
  const { whole } = state.defaults;
  if (path.length === 2 && whole[path[0]] && !document_[path[0]]) {
    return { path: [path[0]], value: { ...whole[path[0]], [path[1]]: value } };
  }
  return { path, value };
}

// What was typed and refused stays in its field until it fits: fields that only make sense together are sent together.
/** @type {Map<string, {owner: string, changes: any[], shown: string}>} */
const refused = new Map();

const ownerOf = (path) => (["lights", "cards", "others"].includes(path[0]) ? path.slice(0, 2) : path.slice(0, 1)).join(".");

async function commitField(store, root, field, changes) {
  const { path, label } = field.dataset, owner = ownerOf(changes[0].path), typed = field.value;
  const waiting = [...refused].filter(([at, one]) => at !== path && one.owner === owner);
  const words = label || "Changed";
  const both = [...waiting.flatMap(([, one]) => one.changes), ...changes];
  refused.delete(path);
  if (await store.commit(both, words)) for (const [at] of waiting) refused.delete(at);
  else if (!store.overtaken && (!waiting.length || !(await store.commit(changes, words)))) refused.set(path, { owner, changes, shown: typed });
  fillFields(root, store.state);
}

// A head whose range is cut shorter than its power: offered to be raised with it.
function raises(store, { path: [list, key, name], value }) {
  const light = store.light(key);
  if (list !== "lights" || name !== "lowest_stops" || !light || light.power >= -value) return false;
  store.hold(`${light.name} stands lower than that: ${light.notches.find(({ stops }) => Math.abs(stops - light.power) < 1e-6)?.name ?? light.power}.`, {
    words: `Raise it to 1/${2 ** value} with its range`,
    act: () => store.commit([{ path: ["lights", key, "power_stops"], value: -value }, { path: ["lights", key, name], value }], "Lowest power"),
  });
  return true;
}

export function bindFields(store, root) {
  unitOf(root);
  setsOfKit(store, root);
  for (const field of all("[data-path]", root)) {
    if (field.dataset.bound) continue;
    field.dataset.bound = "yes";
    field.addEventListener("input", () => {
      field.dataset.touched = "yes";
      if (field.dataset.kind === "share") said(field);
    });
    field.addEventListener("change", () => {
      delete field.dataset.touched;
      const change = changeOf(field, store.state);
      if (!change) fillFields(root, store.state);
      else if (field.dataset.path === "camera.focal_length_mm" && store.framing?.keeps) {
        store.framing.frame({ focal_length_mm: [change].flat()[0].value });
      }
      else if (!raises(store, [change].flat()[0])) commitField(store, root, field, [change].flat());
      else fillFields(root, store.state);
    });
  }
}

// Enter keeps and Escape drops what is typed; both give the keys back to the bench, as does a choice made with the mouse.
export function givesBackKeys(root) {
  let before = "", last = "";
  const isField = (target) => target.matches?.("input:not([type=file]):not([type=range]), select") && !target.closest("dialog");
  root.addEventListener("focusin", ({ target }) => {
    if (!isField(target)) return;
    before = target.value;
    last = "";
  });
  root.addEventListener("keydown", (event) => {
    const { target, key } = event;
    if (!isField(target)) return;
    last = key;
    if (key === "Escape") {
      if (target.type !== "checkbox") target.value = before;
      delete target.dataset.touched;
      refused.delete(target.dataset.path);
      target.classList.remove("refused");
      event.stopPropagation();
    }
    if (key === "Escape" || (key === "Enter" && target.tagName === "INPUT" && target.type !== "checkbox")) setTimeout(() => target.blur());
  }, { capture: true });
  root.addEventListener("change", ({ target }) => {
    if (isField(target) && !last.startsWith("Arrow") && last !== "Tab") target.blur();
  });
}
