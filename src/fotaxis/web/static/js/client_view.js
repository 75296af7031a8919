// The client's screen: the frame alone, following the set. It asks for the state's number and fetches the picture when that changes.
import { $ } from "./dom.js";
const main = $("looking");
const frame = $("looking-frame");
const note = $("looking-note");
const EVERY_MS = 1500;
let shown = null;

async function follow() {
  try {
    const answer = await fetch(`${main.dataset.address}/state`, { headers: { accept: "application/json" } });
    if (answer.status === 404) {
      note.textContent = "This link has been ended. Ask for a new one.";
      note.hidden = false;
      frame.hidden = true;
      return;
    }
    const { state, fine, name } = await answer.json();
    const now = `${state}${fine ? " fine" : ""}`;
    $("looking-name").textContent = name;
    note.hidden = true;
    if (shown !== null && now !== shown) {
      const next = new Image();
      next.src = `${main.dataset.address}/picture.png?of=${encodeURIComponent(now)}`;
      await next.decode();
      frame.src = next.src;
    }
    shown = now;
    document.body.dataset.state = state;
  } catch {
    note.textContent = "The set cannot be reached; trying again.";
    note.hidden = false;
  }
  setTimeout(follow, EVERY_MS);
}
follow();
