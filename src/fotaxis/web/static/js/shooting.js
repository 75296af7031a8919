// The list at the set: kept up to date by the clock on the wall, long exposures counted, flashes beaten, heard and seen.
import { $, targetOf } from "./dom.js";

const EVERY_MS = 30000, TICK_HZ = 880, LAST_HZ = 1320, BEEP_S = 0.08;

/** The time of day here, as 14:05. */
const clock = () => new Date().toTimeString().slice(0, 5);

let beats = null;
let sound = null;

function beep(hz) {
  sound ??= new AudioContext();
  const tone = sound.createOscillator(), volume = sound.createGain();
  tone.frequency.value = hz;
  volume.gain.setValueAtTime(0.2, sound.currentTime);
  volume.gain.exponentialRampToValueAtTime(0.001, sound.currentTime + BEEP_S);
  tone.connect(volume).connect(sound.destination);
  tone.start();
  tone.stop(sound.currentTime + BEEP_S);
}

function blink() {
  const box = $("counting");
  box.classList.remove("beat");
  box.getBoundingClientRect(); // so that the class, set anew, is seen anew
  box.classList.add("beat");
}

function stop() {
  clearInterval(beats);
  beats = null;
  $("counting").hidden = true;
}

/** So many beats, so far apart; words: what is counted; figure: what is shown at beat k. */
function count(many, apart, words, figure) {
  stop();
  const began = performance.now();
  let told = -1;
  $("counting").hidden = false;
  $("counting-what").textContent = words;
  const look = () => {
    const at = Math.floor((performance.now() - began) / 1000 / apart);
    if (at === told) return;
    told = at;
    if (at > many) { stop(); return; }
    $("counting-figure").textContent = figure(at);
    beep(at === many ? LAST_HZ : TICK_HZ);
    blink();
  };
  beats = setInterval(look, 20);
  look();
}

document.addEventListener("click", (event) => {
  const button = targetOf(event).closest("button");
  if (!button) return;
  if (button.id === "counting-stop") stop();
  if (button.dataset.count) {
    const seconds = Number(button.dataset.count), words = button.dataset.moved ? "Move the light evenly until it ends" : "The shutter is open";
    count(Math.ceil(seconds), 1, words, (at) => `${Math.max(0, Math.ceil(seconds) - at)} s`);
  }
  if (button.dataset.pops) {
    const pops = Number(button.dataset.pops);
    count(pops - 1, Number(button.dataset.beat), "Flash at every beat", (at) => `${Math.min(at + 1, pops)} of ${pops}`);
  }
});

// Every question tells the time at the set, which the server does not know.
document.addEventListener("htmx:config:request", (/** @type {any} */ event) => {
  const { request } = event.detail.ctx ?? event.detail;
  if (request?.action?.includes("/shooting/")) request.action += `${request.action.includes("?") ? "&" : "?"}now=${clock()}`;
});

async function refresh() {
  if (document.hidden || beats !== null) return;
  const list = $("list");
  const answer = await fetch(`${list.dataset.address}?now=${clock()}`, { headers: { accept: "text/html" } }).catch(() => null);
  if (!answer?.ok || !list.isConnected) return;
  list.outerHTML = await answer.text();
  window.htmx?.process($("list"));
}

setInterval(refresh, EVERY_MS);
addEventListener("visibilitychange", refresh);
refresh();
