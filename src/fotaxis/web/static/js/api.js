// Talking to the server: saves that are kept once and wait while it is away, questions, packed binary answers.
import { csrf, fresh, line, pause, signedInAgain, untilReachable, windowId } from "./saving.js";

export class Problem extends Error {}

// Somebody else has set the same meanwhile; again() sends it once more, over theirs.
export class Overtaken extends Problem {}

const waits = new Set();
export const onWaiting = (told) => waits.add(told);
const tell = (words) => { for (const told of waits) told(words); };

async function problemOf(response) {
  try { return (await response.json()).problem; } catch { return null; }
}

async function answered(response) {
  if (response.ok) return response;
  const message = await problemOf(response);
  throw new Problem(message ?? "The server did not answer as expected. Your last saved state is safe; reload.");
}

async function asked(address, options) {
  let response;
  try {
    response = await fetch(address, options);
  } catch (error) {
    if (error.name === "AbortError") throw error;
    line.set(false);
    throw new Problem("The server cannot be reached. What you change waits here and is saved when it answers again.");
  }
  line.set(true);
  return answered(response);
}

// Until it is kept: while the server is away, busy, or nobody is signed in, it waits and is sent again under the same key.
export async function post(address, body) {
  const form = body instanceof FormData, key = fresh();
  for (;;) {
    const headers = { "x-csrf-token": csrf(), "x-save-key": key, "x-window": windowId, accept: "application/json" };
    if (!form) headers["content-type"] = "application/json";
    let response;
    try {
      response = await fetch(address, { method: "POST", headers, body: form ? body : JSON.stringify(body) });
    } catch {
      line.set(false);
      tell("offline");
      await untilReachable();
      continue;
    }
    line.set(true);
    if (response.status === 401 || response.status === 403) {
      const words = await problemOf(response.clone());
      if (await signedInAgain()) {
        if (response.status === 401 || /out of date/.test(words ?? "")) {
          await pause(300);
          continue;
        }
      } else if (response.status === 401) {
        tell("signed out");
        await pause(1500);
        continue;
      }
    }
    if (response.status === 503) {
      tell("busy");
      await pause(1000);
      continue;
    }
    tell("");
    if (response.status === 409) throw new Overtaken(await problemOf(response));
    const done = await answered(response);
    return done.status === 204 ? {} : done.json();
  }
}

export async function getJson(address, signal = undefined) {
  return (await asked(address, { headers: { accept: "application/json" }, signal })).json();
}

export async function getHtml(address) {
  return (await asked(address, { headers: { accept: "text/html" } })).text();
}

export async function getPacked(address, signal) {
  return unpack(await (await asked(address, { headers: { accept: "application/json" }, signal })).arrayBuffer());
}

// 4 bytes little-endian header length, the header as JSON, the payload.
export function unpack(buffer) {
  const length = new DataView(buffer).getUint32(0, true);
  const header = JSON.parse(new TextDecoder().decode(new Uint8Array(buffer, 4, length)));
  return { header, payload: buffer.slice(4 + length) };
}
