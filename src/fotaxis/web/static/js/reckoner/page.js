// The reckoner's page: with or without a shot, with or without the server.
import { $ } from "../dom.js";
import { getJson, post, Problem } from "../api.js";
import { signedIn } from "../saving.js";
import { Asking } from "./asking.js";
import { Memory } from "./memory.js";
import { Panel } from "./panel.js";

const json = (id) => JSON.parse($(id).textContent);
const addresses = json("addresses"), calculations = json("calculations");
const shot = /^[0-9a-f-]{36}$/.exec(new URLSearchParams(location.search).get("shot") ?? "")?.[0] ?? "";
const of = (path) => `/shots/${shot}${path}`;
const memory = new Memory(shot), asking = new Asking(addresses);
let unit = (() => { try { return localStorage.getItem("fotaxis-unit") === "in" ? "in" : "cm"; } catch { return "cm"; } })();

const panel = new Panel($("reckoner"), {
  calculations, asking, memory, inches: () => unit === "in",
  chosen: (key) => history.replaceState(null, "", `${location.pathname}${location.search}#${key}`),
  into: shot ? (what) => save("/reckoner", { key: panel.one.key, texts: panel.texts, unknown: panel.unknown, inches: unit === "in", into: what }) : undefined,
  off: (kept) => save("/changes", { changes: [{ kind: "remove", path: ["reckoned", kept.key] }], label: `${kept.name} off the sheet` }),
});

const say = (words) => { $("reckoner-line").textContent = words; };

async function save(part, what) {
  say(navigator.onLine ? "Taking it …" : "Waits for the server; keep this page open.");
  try {
    const state = await post(of(part), what);
    say(state.note ?? "");
    await shotNumbers();
  } catch (error) {
    if (!(error instanceof Problem)) throw error;
    say(error.message);
  }
}

// The shot's numbers as they are now; without the server those of the last time.
async function shotNumbers() {
  if (!shot) return;
  let about = memory.about;
  try {
    about = await getJson(of("/reckoner"));
    memory.about = about;
  } catch (error) { if (!(error instanceof Problem)) throw error; }
  if (!about.numbers) return;
  panel.about(about);
  $("reckoner-shot").textContent = about.name;
  $("reckoner-shot").href = `/shots/${shot}`;
  $("reckoner-shot").hidden = false;
}

function units() {
  $("unit-switch").textContent = `Units: ${unit}`;
}

$("unit-switch").addEventListener("click", () => {
  unit = unit === "cm" ? "in" : "cm";
  try { localStorage.setItem("fotaxis-unit", unit); } catch { /* private */ }
  units();
  if (panel.one) panel.reread();
});

addEventListener("keydown", (event) => {
  const target = /** @type {Element} */ (event.target);
  if (event.ctrlKey || event.metaKey || event.altKey) return;
  if (event.key === "Escape") { event.preventDefault(); panel.find(); }
  if (target.closest("input, select, textarea")) return;
  if (event.key === "/" ) { event.preventDefault(); panel.find(); }
  if (event.key.toLowerCase() === "u") $("unit-switch").click();
});
addEventListener("hashchange", () => panel.open(location.hash.slice(1)));

async function offline() {
  if (!("serviceWorker" in navigator) || !isSecureContext) return;
  try {
    await navigator.serviceWorker.register(addresses.offline, { scope: location.pathname });
    await navigator.serviceWorker.ready;
    document.body.dataset.keeps = "yes";
  } catch { /* it works while the server does */ }
}

// Who looks: what is taken into a shot goes under their name. The page itself is the same for everybody, so that it can be kept.
async function who() {
  try {
    signedIn(await getJson(addresses.session));
  } catch { /* signed out, or without the server */ }
}

units();
const first = location.hash.slice(1) || memory.last;
if (first && (location.hash || innerWidth > 900)) panel.open(first);
else if (innerWidth > 900) panel.open(calculations[0].key);
who().then(shotNumbers);
asking.begin((ready) => {
  document.body.dataset.computes = ready ? "here" : "there";
  offline().then(() => { if (document.body.dataset.keeps) say("Works without the server"); });
});
