// Acts are kept in IndexedDB first and sent when possible. An act leaves the queue only when the
// server's answer names its id. A queue belongs to one person and one programme.

const DATABASE = "kessa-bench";
const store = "acts";

function open() {
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

export class Outbox {
  constructor(owner) {
    this.owner = owner;
    this.opened = open();
  }

  // Resolves once the transaction is durable; the sequence number is given inside it.
  async keep(event) {
    const database = await this.opened;
    return new Promise((resolve, reject) => {
      const transaction = database.transaction([store, "meta"], "readwrite", { durability: "strict" });
      const meta = transaction.objectStore("meta");
      const asked = meta.get("seq");
      asked.onsuccess = () => {
        event.seq = (asked.result || 0) + 1;
        meta.put(event.seq, "seq");
        transaction.objectStore(store).put({ id: event.id, owner: this.owner, event });
      };
      transaction.oncomplete = () => resolve(event);
      transaction.onerror = transaction.onabort = () => reject(transaction.error);
    });
  }

  async waiting() {
    const database = await this.opened;
    return new Promise((resolve, reject) => {
      const index = database.transaction(store).objectStore(store).index("owner");
      const asked = index.getAll(this.owner);
      asked.onsuccess = () => resolve(asked.result.map((row) => row.event));
      asked.onerror = () => reject(asked.error);
    });
  }

  async forget(ids) {
    const database = await this.opened;
    return new Promise((resolve, reject) => {
      const transaction = database.transaction(store, "readwrite");
      for (const id of ids) transaction.objectStore(store).delete(id);
      transaction.oncomplete = () => resolve();
      transaction.onerror = () => reject(transaction.error);
    });
  }
}
