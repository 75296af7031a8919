// The panels beside the composite, as markup: the chosen capture, how it is joined, the finish, what is needed, places to retouch.
import { text } from "./markup.js";

const number = (name, value, words, unit, more = "") => `<label class="field">${words}<span class="with-unit"><input name="${name}" value="${value ?? ""}" size="6" inputmode="decimal" data-number="" ${more}><i>${unit}</i></span></label>`;
const check = (name, on, words) => `<label class="check"><input type="checkbox" name="${text(name)}" ${on ? "checked" : ""}> ${text(words)}</label>`;
const choice = (name, value, pairs, words, id = "") => `<label class="field">${words}<select name="${name}" ${id && `id="${id}"`}>${pairs.map(([key, shown]) => `<option value="${text(key)}" ${String(key) === String(value) ? "selected" : ""}>${text(shown)}</option>`).join("")}</select></label>`;

export function capturePanel(page) {
  const one = page.chosen, { state, choices } = page;
  if (!one) return `<p class="empty">Choose a capture below, or keep the bench's present state as the first.</p>`;
  const lights = state.lights.map(({ key, name }) => {
    const on = one.on.find((light) => light.key === key);
    return `<li>${check(`light:${key}`, Boolean(on), name)}${on ? `<span class="with-unit"><input name="power:${text(key)}" aria-label="Power of ${text(name)}, stops from full" value="${on.stops}" size="6" inputmode="decimal" data-number=""><i>stops</i></span><span class="muted">${text(on.power)}</span>` : ""}</li>`;
  }).join("");
  const seconds = choices.shutters.some(({ s }) => Math.abs(s / one.shutter_s - 1) < 0.01) ? [] : [[one.shutter_s, `${one.shutter_s} s`]];
  const shutters = [...seconds, ...choices.shutters.map(({ s, name }) => [Math.abs(s / one.shutter_s - 1) < 0.01 ? one.shutter_s : s, name])];
  return `<div class="line"><label class="field name-field">Name<input name="name" value="${text(one.name)}" maxlength="80"></label>
    <button type="button" data-do="set-up" title="The bench gets these lights, powers, exposure and focus; where things stand is not touched">Set up on bench</button>
    <button type="button" class="quiet" data-do="from-bench" title="This capture gets what the bench shows now">As on bench</button></div>
    <p class="muted">${text(one.words)}${one.painted ? `; ${text(one.painted)}` : ""}.</p>
    <h2>Lights</h2><ul class="capture-lights">${lights}</ul>
    <h2>Exposure</h2><div class="fields small">${number("f_number", Math.round(one.f_number * 100) / 100, "f/", "")}${choice("shutter_s", one.shutter_s, shutters, "Shutter").replace("<select", "<select data-number=\"\"")}${number("iso", one.iso, "ISO", "")}
      ${choice("focus", one.focus, [["aim", "the aim"], ["distance", "a distance"], ["all sharp", "all sharp"]], "Focus")}${one.focus === "distance" ? number("focus_cm", one.focus_cm, "at", "cm", "") : ""}
      ${check("polariser_on", one.polariser_deg !== null, "Polariser")}${one.polariser_deg === null ? "" : number("polariser_deg", one.polariser_deg, "turned", "°")}
      ${state.framings.length ? choice("framing", one.framing, [["", "locked: the shot's"], ...state.framings.map((name) => [name, name])], "Camera") : ""}</div>
    ${state.readings ? `<h2>It reads by itself</h2><ul id="own-reads" class="reads muted">${(page.own?.readings ?? []).map(({ name, words }) => `<li>${text(name)}: ${text(words)}</li>`).join("")}</ul>` : ""}
    <h2>Lifted away</h2><div class="checks">${state.things.map(({ key, name }) => check(`away:${key}`, one.away.includes(key), name)).join("")}</div>
    <div class="checks">${check("poured", one.poured, "Poured")}${check("wet", one.wet, "Wet: water or droplets")}${check("splash", one.splash, "Splash")}</div>
    <h2>At the set</h2><div class="fields small"><label class="field">Who holds, who pours<input name="hands" value="${text(one.hands)}" maxlength="120"></label><label class="field">Note<input name="note" value="${text(one.note)}" maxlength="1000"></label></div>
    ${state.captures.length > 1 ? `<details><summary>Shot only after…</summary><div class="checks">${state.captures.filter(({ key }) => key !== one.key).map(({ key, name }) => check(`after:${key}`, one.after.includes(key), name)).join("")}</div></details>` : ""}
    <h2>Real frame</h2><p class="line">${one.frame ? `<a href="${one.frame.address}">${text(one.frame.name)}</a>` : `<span class="muted">none yet</span>`}<label class="sr-only" for="frame-file">Frame of ${text(one.name)}</label><input type="file" id="frame-file" accept="image/jpeg,image/png,image/tiff"></p>
    <p class="line"><button type="button" class="quiet" data-do="remove">Remove this capture</button></p>`;
}

export function joinPanel(page) {
  const one = page.chosen;
  if (!one) return `<p class="empty">Choose a capture below.</p>`;
  const parts = one.mask.map((part, i) => maskPart(page, part, i)).join("");
  return `<p class="muted">${text(one.name)}: ${text(one.joined)}.</p>
    <div class="fields small">${check("shown", one.shown, "In the composite (O)")}${choice("blend", one.blend, Object.entries(page.choices.blends), "How it joins", "blend")}</div>
    <label class="field slider">Strength<input type="range" name="strength_stops" min="-4" max="2" step="0.25" value="${one.strength_stops}" data-number="" data-unit="stops"><output>${one.strength_stops} stops</output></label>
    <div class="fields small">${choice("good_half", one.good_half, [["", "as it is"], ["left", "left half mirrored over"], ["right", "right half mirrored over"]], "Good half")}${check("flipped", one.flipped, "Turned over at the foot, as the table would reflect it")}</div>
    <h2>Mask</h2>${one.mask.length ? `<ol class="mask-parts">${parts}</ol>` : `<p class="muted">None: all of it goes in.</p>`}
    <p class="line"><button type="button" data-do="add-part">Add an area of the set</button><span class="muted">or paint with Brush, drag a Gradient, over the picture</span>${one.mask.length ? `<button type="button" class="quiet" data-do="no-mask">No mask</button>` : ""}</p>
    <p class="line"><button type="button" class="quiet" data-do="earlier">Join earlier</button><button type="button" class="quiet" data-do="later">Join later</button></p>`;
}

function maskPart(page, part, i) {
  const areas = page.state.areas.map(({ key, words }) => [key, words]);
  const zones = page.state.zones.map((name) => [`zone:${name}`, name]);
  const what = {
    scene: () => choice("scene", part.area === "zone" ? `zone:${part.zone}` : part.area, [...zones, ...areas], "Area").replace("<select", "<select data-scene=\"yes\""),
    brush: () => `<span>a stroke of ${part.points?.length ?? 0} places</span>`,
    gradient: () => "<span>a gradient</span>",
    depth: () => `<span>from ${part.near_cm} cm to ${part.far_cm ?? "all beyond"}${part.far_cm ? " cm" : ""} of the lens</span>`,
  }[part.kind]();
  return `<li data-part="${i}">${choice("how", part.how, [["add", "add"], ["take", "take away"]], "")}${what}
    <label class="field slider">Feather<input type="range" name="feather_mm" min="0" max="30" step="0.5" value="${part.feather_mm}" data-number="" data-unit="mm"><output>${part.feather_mm} mm</output></label>
    ${check("invert", part.invert, "all but this")}<button type="button" class="quiet" data-do="remove-part" data-part="${i}">Remove</button></li>`;
}

export function finishPanel({ state }) {
  const { finish, shooting } = state;
  const slide = (name, words, low, high, step) => `<label class="field slider">${words}<input type="range" name="${name}" min="${low}" max="${high}" step="${step}" value="${finish[name]}" data-number=""><output>${finish[name]}</output></label>`;
  return `<p class="muted">How the composite is developed. Readings stay linear and know none of it.</p>
    ${slide("black_point", "Black point", 0, 60, 1)}${slide("white_point", "White point", 180, 255, 1)}
    <div class="fields small">${check("soft_shoulder", finish.soft_shoulder, "Soft shoulder")}<label class="field">White shown<span class="with-unit"><input name="white_k" value="${finish.white_k ?? ""}" size="6" inputmode="numeric" data-number="none" placeholder="as taken"><i>K</i></span></label></div>
    <h2>The shoot</h2><div class="fields small"><label class="field">Begins at<input type="time" name="begin" value="${shooting.begin}"></label><label class="field">Client comes at<input type="time" name="client" value="${shooting.client}"></label></div>
    <div class="checks">${check("guide", shooting.guide, "A guide frame with everything on")}${check("background_plate", shooting.background_plate, "The background without the product")}</div>`;
}

export function neededPanel({ needed }) {
  const schools = ["one frame", "one per part"].map((school) => `<button type="button" data-do="school" data-school="${school}" aria-pressed="${needed?.school === school}">${school === "one frame" ? "Everything in one frame" : "One capture per part"}</button>`).join("");
  if (!needed || needed.waiting) return `<p class="segments">${schools}</p><p class="muted">Reading the set…</p>`;
  return `<p class="segments">${schools}</p><p><strong>${text(needed.words)}</strong></p>
    <ul class="reasons">${needed.reasons.map((why) => `<li>${text(why)}</li>`).join("")}</ul>
    <ol>${needed.captures.map(({ name, words }) => `<li><strong>${text(name)}</strong> <span class="muted">${text(words)}</span></li>`).join("")}</ol>
    ${needed.captures.length ? `<p class="line"><button type="button" class="main" data-do="take" data-instead="yes">Take these instead</button><button type="button" data-do="take" data-instead="no">Add them</button></p>` : ""}`;
}

export function retouchPanel({ state }) {
  if (!state.retouch.length) return `<p class="empty">Nothing marked. Press Retouch (R) and click a place in the picture: dust, seams, a card that is seen, the join of two parts.</p>`;
  const kinds = Object.entries(state.retouch_words);
  return `<ol class="retouch">${state.retouch.map((one) => `<li>${choice("what", one.what, kinds, "").replace("<select", `<select aria-label="What" data-spot="${text(one.key)}"`)}
    <input name="note" aria-label="Note" value="${text(one.note)}" maxlength="200" data-spot="${text(one.key)}"><label class="check"><input type="checkbox" name="done" data-spot="${text(one.key)}" ${one.done ? "checked" : ""}> done</label>
    <button type="button" class="quiet" data-do="remove-spot" data-key="${text(one.key)}">Remove</button></li>`).join("")}</ol>`;
}

export function readsPanel({ reads }) {
  if (!reads) return "";
  const wishes = reads.wishes.map(({ state, words, now }) => `<li data-state="${text(state)}"><b>${text(state)}</b> ${text(words)}: ${text(now)}</li>`).join("");
  const readings = reads.readings.map(({ name, words }) => `<li>${text(name)}: ${text(words)}</li>`).join("");
  return `<h2>The composite reads</h2><ul class="reads">${reads.line.map((words) => `<li>${text(words)}</li>`).join("")}${readings}</ul>${wishes ? `<h2>Wishes</h2><ul class="reads">${wishes}</ul>` : ""}`;
}
