// Keeps the reckoner's page and all it is made of, so that it opens and computes without the server, which tells before this what
// that is.
const { version: VERSION, page: PAGE, parts: PARTS } = /** @type {any} */ (self).RECKONER;
const KEPT = `fotaxis-reckoner-${VERSION}`, PATIENCE_MS = 3000;

addEventListener("install", (/** @type {any} */ event) => {
  event.waitUntil((async () => {
    const kept = await caches.open(KEPT);
    await kept.addAll([PAGE, ...PARTS].map((part) => new Request(part, { cache: "reload" })));
    await /** @type {any} */ (self).skipWaiting();
  })());
});

addEventListener("activate", (/** @type {any} */ event) => {
  event.waitUntil((async () => {
    for (const name of await caches.keys()) if (name.startsWith("fotaxis-reckoner-") && name !== KEPT) await caches.delete(name);
    await /** @type {any} */ (self).clients.claim();
  })());
});

// The page itself is asked for anew where the server answers soon; what has a mark of its content in its address never changes.
async function page(request) {
  const kept = await (await caches.open(KEPT)).match(PAGE);
  const asked = fetch(request).then((answer) => (answer.ok || answer.redirected || answer.type === "opaqueredirect" || !kept ? answer : kept));
  if (!kept) return asked;
  const late = new Promise((done) => { setTimeout(() => done(kept), PATIENCE_MS); });
  return Promise.race([asked.catch(() => kept), late]);
}

addEventListener("fetch", (/** @type {any} */ event) => {
  const { request } = event, { pathname, search, origin } = new URL(request.url);
  if (request.method !== "GET" || origin !== location.origin) return;
  if (request.mode === "navigate") {
    if (pathname === PAGE) event.respondWith(page(request));
    return;
  }
  const part = PARTS.find((one) => one === pathname + search) ?? PARTS.find((one) => one === pathname);
  if (part) event.respondWith((async () => (await (await caches.open(KEPT)).match(part)) ?? fetch(request))());
});
