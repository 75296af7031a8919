// Every page but the bench: forms are saved once, wait while the server is away, and go on after signing in again.
import { $, targetOf } from "./dom.js";
import { csrf, fresh, line, signedInAgain, untilReachable, windowId } from "./saving.js";

const keys = new WeakMap();
const waiting = new Set();

const about = (event) => event.detail.ctx ?? event.detail;

document.addEventListener("htmx:config:request", (event) => {
  const { request, sourceElement } = about(event);
  if (!request || request.method === "GET") return;
  if (!keys.has(sourceElement)) keys.set(sourceElement, fresh());
  Object.assign(request.headers, { "x-save-key": keys.get(sourceElement), "x-window": windowId, "X-CSRF-Token": csrf() });
});

// Kept, or refused for good: the next press is another save.
document.addEventListener("htmx:after:request", async (event) => {
  const { response, sourceElement } = about(event);
  if (!response || !sourceElement) return;
  if (response.status < 500 && response.status !== 401 && response.status !== 403) keys.delete(sourceElement);
  if (response.status === 401 || response.status === 403) {
    if (!(await signedInAgain())) return;
    if (!sourceElement.dataset.again) {
      sourceElement.dataset.again = "yes";
      send(sourceElement);
    }
  } else delete sourceElement.dataset.again;
});

function send(element) {
  if (element.matches("form")) element.requestSubmit();
  else element.click();
}

document.addEventListener("htmx:error", (event) => {
  const { sourceElement, request } = about(event);
  if (!sourceElement || !request || request.method === "GET") return;
  waiting.add(sourceElement);
  sourceElement.setAttribute("aria-busy", "true");
  if (line.reachable) {
    line.set(false);
    untilReachable().then(() => {
      for (const element of waiting) {
        element.removeAttribute("aria-busy");
        if (element.isConnected) send(element);
      }
      waiting.clear();
    });
  }
});

line.listen((reachable) => {
  const note = $("offline");
  if (note) note.hidden = reachable;
});

document.addEventListener("focusin", (event) => { if (targetOf(event).matches("[data-select]")) targetOf(event).select(); });
