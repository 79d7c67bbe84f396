// Has the worker keep pages and what they use, so that they open without a network from now on.

// This page and what it has loaded: whether it is kept.
export async function storeThisPage(scope) {
  await document.fonts.ready;
  const used = performance.getEntriesByType("resource").map((entry) => entry.name);
  const { outcome } = await store(scope, [location.href.split("#")[0], ...used]);
  return outcome === "kept";
}

// -> { outcome: "kept" | "full" | "failed" | "cannot", bytes, pages }
export async function store(scope, urls) {
  if (!("serviceWorker" in navigator)) return { outcome: "cannot", bytes: 0, pages: 0 };
  const registration = await navigator.serviceWorker.register("/sw.js", { scope });
  if (!registration) return { outcome: "cannot", bytes: 0, pages: 0 };
  const worker = registration.active ?? registration.waiting ?? registration.installing;
  await activated(worker);
  const channel = new MessageChannel();
  const answered = new Promise((resolve) => {
    channel.port1.onmessage = ({ data }) => resolve(data);
  });
  worker.postMessage({ keep: urls }, [channel.port2]);
  return answered;
}

function activated(worker) {
  if (worker.state === "activated") return Promise.resolve();
  return new Promise((resolve) => {
    worker.addEventListener("statechange", () => worker.state === "activated" && resolve());
  });
}
