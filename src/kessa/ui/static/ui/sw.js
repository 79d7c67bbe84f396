// Keeps opened bench pages and their assets, so that a run continues without a network. It looks after
// the bench alone; other pages never wait for it. Assets carry their content in their name and are
// served from the store; a bench page comes from the network while there is one, unless a new release
// would take over a run that is open: then the page that began it stays until the run has ended.
const STORE = "kessa-bench-1";
const isBench = (url) => /^\/p\/[^/]+\/bench\/[0-9a-f-]{36}\/$/.test(url.pathname);
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
  if (event.request.method !== "GET" || url.origin !== location.origin) return;
  if (isAsset(url)) event.respondWith(asset(event.request));
  else if (event.request.mode === "navigate" && isBench(url))
    event.respondWith(page(event.request));
});

// A bench page that was loaded before the worker looked after it names itself and what it uses.
async function keepAll(urls) {
  const wanted = urls.map((text) => new URL(text)).filter((url) => url.origin === location.origin);
  const kept = wanted.map((url) =>
    isAsset(url) ? asset(url.href) : isBench(url) ? page(url.href) : null,
  );
  await Promise.all(kept);
}

self.addEventListener("message", (event) => {
  const answer = (outcome) => event.ports[0].postMessage(outcome);
  event.waitUntil(
    keepAll(event.data.keep).then(
      () => answer("kept"),
      () => answer("failed"),
    ),
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
