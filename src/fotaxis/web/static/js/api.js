// Talking to the server: JSON changes one after the other, packed binary answers.

const token = () => document.querySelector("[data-csrf]")?.dataset.csrf ?? "";

export class Problem extends Error {}

async function answered(response) {
  if (response.ok) return response;
  let message = "The server did not answer as expected. Your last saved state is safe; reload.";
  try { message = (await response.json()).problem ?? message; } catch { /* not JSON: keep the general words */ }
  throw new Problem(message);
}

async function asked(address, options) {
  let response;
  try {
    response = await fetch(address, options);
  } catch {
    throw new Problem("The server cannot be reached. What you see is not saved; check the connection and repeat the last step.");
  }
  return answered(response);
}

export async function post(address, body) {
  const form = body instanceof FormData;
  const headers = { "x-csrf-token": token(), accept: "application/json" };
  if (!form) headers["content-type"] = "application/json";
  const response = await asked(address, { method: "POST", headers, body: form ? body : JSON.stringify(body) });
  return response.json();
}

export async function getJson(address) {
  return (await asked(address, { headers: { accept: "application/json" } })).json();
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
