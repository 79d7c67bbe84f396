// Has the worker keep this page and what it uses, so that it opens without a network from now on.

export async function storeThisPage(scope) {
  if (!("serviceWorker" in navigator)) return false;
  const registration = await navigator.serviceWorker.register("/sw.js", { scope });
  const worker = registration.active ?? registration.waiting ?? registration.installing;
  await activated(worker);
  await document.fonts.ready;
  const used = performance.getEntriesByType("resource").map((entry) => entry.name);
  const channel = new MessageChannel();
  const answered = new Promise((resolve) => {
    channel.port1.onmessage = ({ data }) => resolve(data === "kept");
  });
  worker.postMessage({ keep: [location.href.split("#")[0], ...used] }, [channel.port2]);
  return answered;
}

function activated(worker) {
  if (worker.state === "activated") return Promise.resolve();
  return new Promise((resolve) => {
    worker.addEventListener("statechange", () => worker.state === "activated" && resolve());
  });
}
