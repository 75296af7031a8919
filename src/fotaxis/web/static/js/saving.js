// What goes with everything that is saved: a key, so that one sent twice is kept once; this window; a token that belongs to whoever
// is signed in now. And whether the server can be reached.
import { query } from "./dom.js";

function kept(name, make) {
  try {
    const found = sessionStorage.getItem(name);
    if (found) return found;
    const made = make();
    sessionStorage.setItem(name, made);
    return made;
  } catch { return make(); }
}

export const fresh = () => (crypto.randomUUID ? crypto.randomUUID() : [...crypto.getRandomValues(new Uint8Array(16))].map((n) => n.toString(16).padStart(2, "0")).join(""));

// A window that is duplicated takes its storage along; two must not be one, so each load has a number of its own.
export const windowId = `${kept("fotaxis-window", fresh).slice(0, 24)}-${fresh().slice(0, 8)}`;

let token = query("[data-csrf]")?.dataset.csrf ?? "";
export const csrf = () => token;

/** Who is signed in, for a page that is the same for everybody. @param {{user: string, token: string}} now */
export function signedIn(now) {
  document.body.dataset.user = now.user;
  token = now.token;
}

export class Offline extends Error {}
export class SignedOut extends Error {}

const listeners = new Set();
let reachable = true;
let savesWaiting = 0; // while one waits, only the server's own word of its health says that it is back
export const line = {
  get reachable() { return reachable; },
  set(now) {
    if (now === reachable || (now && savesWaiting)) return;
    reachable = now;
    document.body.dataset.offline = now ? "" : "yes";
    for (const told of listeners) told(now);
  },
  listen(told) { listeners.add(told); },
};

// Somebody signed in again in another tab: is it the same person? Then their token is ours from now on.
export async function signedInAgain() {
  let answer;
  try { answer = await fetch("/session", { headers: { accept: "application/json" } }); } catch { return false; }
  if (!answer.ok) return false;
  const now = await answer.json();
  if (now.user !== query("[data-user]")?.dataset.user) return false;
  token = now.token;
  return true;
}

export const pause = (ms) => new Promise((done) => { setTimeout(done, ms); });

// Until the server answers at all. A hidden line is looked for every two seconds, and at once when the machine says it is online.
export async function untilReachable() {
  savesWaiting += 1;
  for (;;) {
    await Promise.race([pause(2000), new Promise((done) => addEventListener("online", done, { once: true }))]);
    try {
      const answer = await fetch("/health", { headers: { accept: "application/json" } });
      if (answer.ok) {
        savesWaiting -= 1;
        line.set(true);
        return;
      }
    } catch { /* not yet */ }
  }
}
