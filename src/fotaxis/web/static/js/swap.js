// A picture that came quick is exchanged for the fine one when a worker has made it.
import { all } from "./dom.js";

for (const picture of all("img[data-fine]")) swap(picture);

async function swap(picture) {
  const note = picture.parentElement.querySelector("[data-fine-note]");
  try {
    const first = await fetch(picture.src);
    await first.blob(); // to its end, or the page is never done loading
    if (first.headers.get("x-picture") === "fine") return done(picture);
    note.hidden = false;
    for (let tries = 0; tries < 20; tries++) {
      const answer = await fetch(picture.dataset.fine, { headers: { accept: "application/json" } });
      await answer.text();
      if (answer.ok) {
        const next = new Image();
        next.src = `${picture.src}&fine=1`;
        await next.decode();
        picture.src = next.src;
        note.hidden = true;
        return done(picture);
      }
      if (answer.status !== 503) break;
      await new Promise((again) => { setTimeout(again, 1500); });
    }
    note.textContent = ", quick: the fine one could not be made just now";
  } catch { note.textContent = ", quick: the server cannot be reached"; note.hidden = false; }
  return done(picture);
}

function done(picture) { picture.dataset.swapped = "yes"; }
