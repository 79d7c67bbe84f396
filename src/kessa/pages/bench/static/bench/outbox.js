// Acts are kept in IndexedDB first and sent when possible. An act leaves the queue only when the
// server's answer names its id; it stays on the device until a page from the server carries it, so
// that a stored page opened without a network still knows it. A queue belongs to one person and one
// programme; what the server refused stays with the reason until somebody has seen it.

import { answered, finished, isThere } from "./indexed.js";
import { ownersOfPhotographs, Photographs } from "./photographs.js";

const DATABASE = "kessa-bench";
const store = "acts";

export function open() {
  return new Promise((resolve, reject) => {
    const request = indexedDB.open(DATABASE, 1);
    request.onupgradeneeded = () => {
      request.result.createObjectStore(store, { keyPath: "id" }).createIndex("owner", "owner");
      request.result.createObjectStore("meta");
    };
    request.onsuccess = () => resolve(request.result);
    request.onerror = () => reject(request.error);
  });
}

// Every owner that has something to send on this device.
export async function owners() {
  return [...new Set([...(await ownersOfActs()), ...(await ownersOfPhotographs())])];
}

async function ownersOfActs() {
  if (!(await isThere(DATABASE))) return [];
  const rows = await answered((await open()).transaction(store).objectStore(store).getAll());
  return rows.filter((row) => !row.sent && !row.refused).map((row) => row.owner);
}

export class Outbox {
  // owner: "person/programme". visit: whose capability sends what is kept from now on.
  constructor(owner, visit = "") {
    this.owner = owner;
    this.visit = visit;
    this.opened = open();
    this.photographs = new Photographs(owner, visit);
  }

  // Resolves once the transaction is durable; the sequence number is given inside it.
  async keep(event) {
    const database = await this.opened;
    return new Promise((resolve, reject) => {
      const transaction = database.transaction([store, "meta"], "readwrite", {
        durability: "strict",
      });
      const meta = transaction.objectStore("meta");
      const asked = meta.get("seq");
      asked.onsuccess = () => {
        event.seq = (asked.result || 0) + 1;
        try {
          meta.put(event.seq, "seq");
          transaction
            .objectStore(store)
            .put({ id: event.id, owner: this.owner, visit: this.visit, event, sent: false });
        } catch {
          transaction.abort();
        }
      };
      transaction.oncomplete = () => resolve(event);
      transaction.onerror = transaction.onabort = () => reject(transaction.error);
    });
  }

  // The database, or nothing where the browser does not give one: then no act waits here.
  async database() {
    return this.opened.catch(() => null);
  }

  // Every act of this owner on this device that counts, sent or not. Rejects without a database.
  async known() {
    await this.opened;
    return (await this.rows()).filter((row) => !row.refused).map((row) => row.event);
  }

  async waiting() {
    return (await this.rows()).filter((row) => !row.sent && !row.refused);
  }

  async refused() {
    return (await this.rows()).filter((row) => row.refused);
  }

  async rows() {
    const database = await this.database();
    if (!database) return [];
    return answered(
      database.transaction(store).objectStore(store).index("owner").getAll(this.owner),
    );
  }

  // The server has named these: they need not be sent again.
  async sent(ids) {
    await this.mark(ids, () => ({ sent: true }));
  }

  // The server will not have these, each for its reason.
  async refuse(refusals) {
    const reasons = new Map(refusals.map(({ id, reason }) => [id, reason]));
    await this.mark([...reasons.keys()], (row) => ({ refused: reasons.get(row.id) }));
  }

  async mark(ids, change) {
    const named = new Set(ids);
    const rows = (await this.rows()).filter((row) => named.has(row.id));
    await this.change((acts) => {
      for (const row of rows) acts.put({ ...row, ...change(row) });
    });
  }

  // A page from the server carries these, or somebody has read why they were refused.
  async forget(ids) {
    await this.change((acts) => {
      for (const id of ids) acts.delete(id);
    });
  }

  async change(work) {
    const database = await this.database();
    if (!database) return;
    const transaction = database.transaction(store, "readwrite");
    work(transaction.objectStore(store));
    return finished(transaction);
  }

  // The capability of a visit: {token, expires}, and the name that people know the owner by.
  async token(visit) {
    const database = await this.database();
    return (
      database &&
      answered(database.transaction("meta").objectStore("meta").get(`token/${this.owner}/${visit}`))
    );
  }

  async keepToken(visit, held) {
    const database = await this.database();
    return (
      database &&
      answered(
        database
          .transaction("meta", "readwrite")
          .objectStore("meta")
          .put(held, `token/${this.owner}/${visit}`),
      )
    );
  }
}
