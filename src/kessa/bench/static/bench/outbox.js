// Acts are kept in IndexedDB first and sent when possible. An act leaves the queue only when the
// server's answer names its id; it stays on the device until a page from the server carries it, so
// that a stored page opened without a network still knows it. A queue belongs to one person and one
// programme.

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
        transaction.objectStore(store).put({ id: event.id, owner: this.owner, event, sent: false });
      };
      transaction.oncomplete = () => resolve(event);
      transaction.onerror = transaction.onabort = () => reject(transaction.error);
    });
  }

  // Every act of this owner on this device, sent or not.
  async known() {
    return (await this.rows()).map((row) => row.event);
  }

  async waiting() {
    return (await this.rows()).filter((row) => !row.sent).map((row) => row.event);
  }

  async rows() {
    const database = await this.opened;
    return new Promise((resolve, reject) => {
      const asked = database.transaction(store).objectStore(store).index("owner").getAll(this.owner);
      asked.onsuccess = () => resolve(asked.result);
      asked.onerror = () => reject(asked.error);
    });
  }

  // The server has named these: they need not be sent again.
  async sent(ids) {
    const named = new Set(ids);
    const rows = (await this.rows()).filter((row) => named.has(row.id));
    await this.change((acts) => rows.forEach((row) => acts.put({ ...row, sent: true })));
  }

  // The server refused these, or a page from the server carries them: they leave the device.
  async forget(ids) {
    await this.change((acts) => ids.forEach((id) => acts.delete(id)));
  }

  async change(work) {
    const database = await this.opened;
    return new Promise((resolve, reject) => {
      const transaction = database.transaction(store, "readwrite");
      work(transaction.objectStore(store));
      transaction.oncomplete = () => resolve();
      transaction.onerror = () => reject(transaction.error);
    });
  }
}
