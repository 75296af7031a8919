// Inputs bound to places in the shot: data-path="camera.distance_cm", things by their key.

export function reach(document_, path) {
  let at = document_;
  for (const step of path) {
    if (at === null || at === undefined) return undefined;
    at = Array.isArray(at) ? at.find((thing) => thing.key === step) ?? at[Number(step)] : at[step];
  }
  return at;
}

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
  for (const field of root.querySelectorAll("input[data-unit=cm]")) {
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

export function fillFields(root, document_) {
  for (const field of root.querySelectorAll("[data-path]")) {
    if (field === document.activeElement && field.dataset.touched) continue;
    const value = reach(document_, field.dataset.path.split("."));
    if (field.dataset.kind === "colour") field.value = toHex(value ?? field.dataset.default?.split(" ").map(Number) ?? [0.5, 0.5, 0.5]);
    else if (field.dataset.kind === "item") field.value = value?.[field.dataset.item] ?? "";
    else if (field.dataset.kind === "flag") field.checked = Boolean(value);
    else if (field.dataset.kind === "part") field.checked = (value ?? null) !== null;
    else if (field.dataset.kind === "turn") turned(field, value);
    else if (field.dataset.kind === "share") { field.value = value ?? 0; said(field); }
    else if (field.tagName === "SELECT" && field.dataset.kind === "number") nearest(field, value);
    else if (inches(field) && typeof value === "number") field.value = Math.round((value / CM_PER_INCH) * 100) / 100;
    else field.value = shown(value ?? USUAL[field.dataset.path.split(".").slice(2).join(".")] ?? PLAIN[field.dataset.path] ?? "");
  }
}

// Fields of a part that is not there are not shown.
export function showParts(root, document_) {
  for (const part of root.querySelectorAll("[data-part]")) {
    part.hidden = (reach(document_, part.dataset.part.split(".")) ?? null) === null;
  }
}

// What stands in a field of a thing whose value is left to its kind.
const USUAL = { "calibration.kind": "as usual" };
const PLAIN = { "table.above_floor_cm": 75, "riser.height_cm": 0 };

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

// What a whole part is put in with when one of its values is set and it was not there.
const WHOLE = {
  riser: (document_) => ({ height_cm: 4, diameter_cm: document_.subject.profile[0].diameter_cm || 6, surface: "black matte" }),
  table: () => ({ surface: "black gloss", width_cm: 60, depth_cm: 50 }),
  background: () => ({ distance_cm: 150, width_cm: 300, height_cm: 300, centre_height_cm: 60, skin: { reflectance: [0.04, 0.04, 0.04] } }),
};

// What a part begins as when it is put on; owner: what it is put on.
const PART = {
  haze: () => ({}),
  hue_deg: () => 30,
  doors_deg: () => [60, 60, 60, 60],
  gate: () => ({ blades_percent: [0, 0, 0, 0] }),
  to: ({ place, turn_deg, tilt_deg }) => ({ place: { ...place, y_cm: place.y_cm + 30 }, turn_deg, tilt_deg }),
  hood: () => ({}),
  mask: (_, { usualMask }) => usualMask,
};

// Choices that put in, replace or take away a whole part: a material, a glass, its liquid.
function wholePart(field, path, value, document_) {
  const parent = path.slice(0, -1);
  if (path[path.length - 1] === "material" && path[0] !== "cards") {
    const before = reach(document_, parent) ?? {};
    return value === (before.material ?? "custom") ? null : { path: parent, value: { material: value, ...(value === "custom" ? { reflectance: [0.5, 0.5, 0.5], coat_index: 0 } : {}) } };
  }
  const owner = path.slice(0, -2);
  if (field.dataset.kind === "glass") {
    const before = reach(document_, parent);
    if (!value) return before ? [{ path: [...owner, "liquid"], value: null }, { path: parent, value: null }] : null;
    return { path: parent, value: { wall_mm: 2.5, floor_cm: 0.8, ...before, index: null, left_per_cm: null, glass: value } };
  }
  if (field.dataset.kind === "liquid") {
    const before = reach(document_, parent);
    if (!value) return { path: parent, value: null };
    const outline = reach(document_, [...owner, "profile"]);
    const top = outline[outline.length - 1].height_cm, floor = reach(document_, [...owner, "glass", "floor_cm"]) ?? 1;
    const level = Math.round((floor + 0.45 * (top - floor)) * 10) / 10;
    return { path: parent, value: { level_cm: level, water_share: 0, ...before, index: null, left_per_cm: null, liquid: value } };
  }
  return undefined;
}

function changeOf(field, state) {
  const document_ = state.document;
  const path = field.dataset.path.split(".");
  let value = field.value;
  const named = wholePart(field, path, value, document_);
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
    return { path, value: field.checked ? PART[path[path.length - 1]](reach(document_, path.slice(0, -1)), state) : null };
  }
  if (field.dataset.kind === "turn") {
    return { path, value: value === "" ? null : { ...reach(document_, path), turn_deg: Number(value) } };
  }
  if (field.dataset.path === "riser.height_cm" && value === 0) return { path: ["riser"], value: null };
  if (path[path.length - 1] === "kind" && path.includes("calibration")) {
    const before = reach(document_, path.slice(0, -1));
    if ((before?.kind ?? "as usual") === value) return null;
    if (value === "as usual") return { path: path.slice(0, -1), value: null };
    const whole = { meter: { kind: "meter", distance_cm: 100, f_number: 16 }, candela: { kind: "candela", candela: 1000 } }[value] ?? { kind: "guide number", metres: 22 };
    return { path: path.slice(0, -1), value: whole };
  }
  if (path.length === 2 && WHOLE[path[0]] && !document_[path[0]]) {
    return { path: [path[0]], value: { ...WHOLE[path[0]](document_), [path[1]]: value } };
  }
  return { path, value };
}

export function bindFields(bench, root) {
  unitOf(root);
  for (const field of root.querySelectorAll("[data-path]")) {
    if (field.dataset.bound) continue;
    field.dataset.bound = "yes";
    field.addEventListener("input", () => {
      field.dataset.touched = "yes";
      if (field.dataset.kind === "share") said(field);
    });
    field.addEventListener("change", () => {
      delete field.dataset.touched;
      const change = changeOf(field, bench.state);
      if (change) bench.commit([change].flat(), field.dataset.label || "Changed");
      else fillFields(root, bench.document);
    });
  }
}
