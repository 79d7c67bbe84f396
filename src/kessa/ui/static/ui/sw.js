// Keeps bench pages, the pages of a visit and their assets, so that a visit is done without a network.
// Any other page comes from the network alone; without one the page that says what is on this device
// stands in for it. Assets carry their content in their name and are
// served from the store; a bench page comes from the network while there is one, unless a new release
// would take over a run that is open: then the page that began it stays until the run has ended.
const STORE = "kessa-bench-1";
const MOST_BYTES = 50 * 1024 * 1024;
const isBench = (url) => /^\/p\/[^/]+\/bench\/[0-9a-f-]{36}\/$/.test(url.pathname);
const isOfVisit = (url) =>
  /^\/p\/[^/]+\/(visits\/\d+\/(end\/)?|samples\/\d+\/(safety|context|sample)\/|on-this-device\/)$/.test(
    url.pathname,
  );
const isKept = (url) => isBench(url) || isOfVisit(url);
const isAsset = (url) =>
  url.pathname.startsWith("/static/") && /\.[0-9a-f]{12}\./.test(url.pathname);

// A newer worker waits until no bench page of the older one is open.
self.addEventListener("install", () => self.registration.active || self.skipWaiting());
self.addEventListener("activate", (event) => event.waitUntil(self.clients.claim()));

async function asset(request) {
  const store = await caches.open(STORE);
  const kept = await store.match(request);
  if (kept) return kept;
  const fresh = await fetch(request);
  if (fresh.ok) await store.put(request, fresh.clone());
  return fresh;
}

// The kept page began this run under another release, for the same person, and the run is open.
function isPinned(kept, fresh) {
  const said = (response, name) => response.headers.get(`X-Kessa-${name}`);
  const samePerson = said(kept, "Person") === said(fresh, "Person");
  return (
    samePerson && said(fresh, "Run") === "open" && said(kept, "Release") !== said(fresh, "Release")
  );
}

async function page(request) {
  const store = await caches.open(STORE);
  try {
    const fresh = await fetch(request);
    if (!fresh.ok || fresh.redirected) return fresh;
    const kept = await store.match(request);
    if (kept && isPinned(kept, fresh)) return kept;
    await store.put(request, fresh.clone());
    return fresh;
  } catch (error) {
    const kept = await store.match(request);
    if (kept) return kept;
    throw error;
  }
}

self.addEventListener("fetch", (event) => {
  const url = new URL(event.request.url);
  if (url.origin !== location.origin) return;
  if (event.request.method === "POST" && event.request.mode === "navigate" && isOfVisit(url))
    event.respondWith(sent(event.request));
  if (event.request.method !== "GET") return;
  if (isAsset(url)) event.respondWith(asset(event.request));
  else if (event.request.mode === "navigate")
    event.respondWith(isKept(url) ? page(event.request) : other(event.request, url));
});

// A form that was sent before its script was there: without a network its page opens once more.
async function sent(request) {
  try {
    return await fetch(request);
  } catch (error) {
    const kept = await (await caches.open(STORE)).match(request.url);
    if (kept) return kept;
    throw error;
  }
}

// A page that is not kept here.
async function other(request, url) {
  try {
    return await fetch(request);
  } catch (error) {
    const [, programme] = url.pathname.match(/^\/p\/([^/]+)\//) ?? [];
    const store = await caches.open(STORE);
    const kept = programme && (await store.match(`/p/${programme}/on-this-device/`));
    if (kept) return kept;
    throw error;
  }
}

// A page that was loaded before the worker looked after it names itself and what it uses; a visit that
// is taken along names its pages, and what those use is found in them.
async function keepAll(urls) {
  const left = new Set(urls.filter((text) => new URL(text).origin === location.origin));
  const done = new Set();
  let bytes = 0;
  while (left.size) {
    const some = [...left].slice(0, 8);
    for (const text of some) left.delete(text) && done.add(text);
    const kept = await Promise.all(some.map((text) => keepOne(new URL(text))));
    for (const one of kept) {
      bytes += one.bytes;
      for (const text of one.uses) if (!done.has(text)) left.add(text);
    }
    if (bytes > MOST_BYTES) return { outcome: "full", bytes, pages: 0 };
  }
  const pages = [...done].filter((text) => isKept(new URL(text))).length;
  return { outcome: "kept", bytes, pages };
}

// Keeps one page or asset; how large it is, and the assets that it names.
async function keepOne(url) {
  if (!isAsset(url) && !isKept(url)) return { bytes: 0, uses: [] };
  const response = isAsset(url) ? await asset(url.href) : await page(url.href);
  if (!response.ok || response.redirected) throw new Error(`${url} was not kept`);
  const body = await response.clone().blob();
  const told = /html|javascript|css/.test(body.type) ? await body.text() : "";
  return { bytes: body.size, uses: assetsIn(told, url) };
}

function assetsIn(text, base) {
  const named = text.matchAll(/["'(]((?:\.{0,2}\/)[^"'()\s]+\.[0-9a-f]{12}\.[a-z0-9]+)["')]/g);
  return [...named].map(([, name]) => new URL(name, base).href);
}

self.addEventListener("message", (event) => {
  const answer = (outcome) => event.ports[0].postMessage(outcome);
  event.waitUntil(
    keepAll(event.data.keep).then(answer, () => answer({ outcome: "failed", bytes: 0, pages: 0 })),
  );
});

// The notice of a timer leads back to its test.
self.addEventListener("notificationclick", (event) => {
  const { notification } = event;
  notification.close();
  event.waitUntil(
    self.clients.matchAll({ type: "window" }).then((pages) => {
      const open = pages.find((one) => new URL(one.url).pathname === notification.data);
      return open ? open.focus() : self.clients.openWindow(notification.data);
    }),
  );
});
