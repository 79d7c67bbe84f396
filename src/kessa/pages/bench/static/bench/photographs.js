// Photographs are kept on this device until the server has them. Each is made smaller, encoded again
// (which leaves out where it was taken) and named by the SHA-256 of its file; acts carry that name.

import { answered, finished, isThere } from "./indexed.js";

const DATABASE = "kessa-photographs";
const store = "photographs";
const LONGEST_SIDE = 1600;
const MOST_BYTES = 900_000;
const QUALITIES = [0.86, 0.72, 0.55, 0.4];

function open() {
  return new Promise((resolve, reject) => {
    const request = indexedDB.open(DATABASE, 1);
    request.onupgradeneeded = () =>
      request.result.createObjectStore(store, { keyPath: "key" }).createIndex("owner", "owner");
    request.onsuccess = () => resolve(request.result);
    request.onerror = () => reject(request.error);
  });
}

// Every owner that has photographs to send on this device.
export async function ownersOfPhotographs() {
  if (!(await isThere(DATABASE))) return [];
  const rows = await answered((await open()).transaction(store).objectStore(store).getAll());
  return rows.filter((row) => !row.refused).map((row) => row.owner);
}

// -> { key, blob, address }: the picture as it is sent, and to be shown at once.
export async function madeSmaller(file) {
  const picture = await createImageBitmap(file, { imageOrientation: "from-image" });
  const scale = Math.min(1, LONGEST_SIDE / Math.max(picture.width, picture.height));
  const canvas = document.createElement("canvas");
  canvas.width = Math.max(1, Math.round(picture.width * scale));
  canvas.height = Math.max(1, Math.round(picture.height * scale));
  canvas.getContext("2d").drawImage(picture, 0, 0, canvas.width, canvas.height);
  let blob;
  for (const quality of QUALITIES) {
    blob = await new Promise((resolve) => canvas.toBlob(resolve, "image/jpeg", quality));
    if (blob.size <= MOST_BYTES) break;
  }
  const bytes = new Uint8Array(await crypto.subtle.digest("SHA-256", await blob.arrayBuffer()));
  const key = [...bytes].map((byte) => byte.toString(16).padStart(2, "0")).join("");
  return { key, blob, address: canvas.toDataURL("image/jpeg", 0.7) };
}

export class Photographs {
  // owner, visit: as an Outbox has them.
  constructor(owner, visit = "") {
    this.owner = owner;
    this.visit = visit;
  }

  // Resolves once the picture is durable.
  async keep(key, blob) {
    const row = { key, blob, owner: this.owner, visit: this.visit, at: Date.now() };
    await this.change((rows) => rows.put(row));
  }

  // Those that the server has still to get, the oldest first.
  async waiting() {
    if (!(await isThere(DATABASE))) return [];
    const database = await open();
    const rows = await answered(
      database.transaction(store).objectStore(store).index("owner").getAll(this.owner),
    );
    return rows.filter((row) => !row.refused).sort((a, b) => a.at - b.at);
  }

  // What came of sending one: the server has it, or will not have it, and it stays here with the
  // reason. False where it is to be sent again.
  async settle(row, { outcome, answer }) {
    if (outcome === "ok") await this.change((rows) => rows.delete(row.key));
    else if (["big", "refused"].includes(outcome))
      await this.change((rows) => rows.put({ ...row, refused: answer?.error }));
    else return false;
    return true;
  }

  async change(work) {
    const database = await open();
    const transaction = database.transaction(store, "readwrite", { durability: "strict" });
    work(transaction.objectStore(store));
    return finished(transaction);
  }
}
