// Passkeys: the browser makes and shows them; here bytes are put into text and back.
import { $, all } from "./dom.js";
import { csrf, fresh, windowId } from "./saving.js";

const toBytes = (text) => Uint8Array.from(atob(text.replace(/-/g, "+").replace(/_/g, "/")), (c) => c.charCodeAt(0));
const toText = (buffer) => btoa(String.fromCharCode(...new Uint8Array(buffer))).replace(/\+/g, "-").replace(/\//g, "_").replace(/=+$/, "");

function told(credential) {
  const { response } = credential;
  const parts = { clientDataJSON: toText(response.clientDataJSON) };
  for (const name of ["attestationObject", "authenticatorData", "signature", "userHandle"]) if (response[name]) parts[name] = toText(response[name]);
  return JSON.stringify({ id: credential.id, rawId: toText(credential.rawId), type: credential.type, response: parts, clientExtensionResults: {} });
}

function problem(text) {
  const place = $("problem");
  place.replaceChildren(Object.assign(document.createElement("p"), { className: "problem", role: "alert", textContent: text }));
}

async function asked(address, body) {
  const headers = { accept: "application/json", "content-type": "application/json", "x-csrf-token": csrf(), "x-save-key": fresh(), "x-window": windowId };
  const answer = await fetch(address, body ? { method: "POST", headers, body: JSON.stringify(body) } : { headers: { accept: "application/json" } });
  if (!answer.ok) throw new Error((await answer.json()).problem);
  return answer;
}

async function withProblem(work) {
  try {
    await work();
  } catch (error) {
    problem(error.name === "NotAllowedError" ? "No passkey was given. Try again, or use name and password." : error.message);
  }
}

async function signIn(address) {
  const options = await (await asked(address)).json();
  options.challenge = toBytes(options.challenge);
  const credential = await navigator.credentials.get({ publicKey: options });
  location.href = (await (await asked(address, { answer: told(credential) })).json()).go;
}

async function add(address) {
  const options = await (await asked(address)).json();
  options.challenge = toBytes(options.challenge);
  options.user.id = toBytes(options.user.id);
  for (const known of options.excludeCredentials ?? []) known.id = toBytes(known.id);
  const credential = await navigator.credentials.create({ publicKey: options });
  await asked(address, { answer: told(credential), name: $("passkey-name").value });
  location.reload();
}

if (window.PublicKeyCredential && navigator.credentials) {
  for (const button of all("[data-passkey-in]")) {
    button.hidden = false;
    button.onclick = () => withProblem(() => signIn(button.dataset.passkeyIn));
  }
  for (const part of all("[data-passkey-form]")) part.hidden = false;
  for (const part of all("[data-passkey-none]")) part.hidden = true;
  for (const button of all("[data-passkey-add]")) button.onclick = () => withProblem(() => add(button.dataset.passkeyAdd));
}
