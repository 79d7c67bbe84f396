// What the stores of this device have in common: requests and transactions of IndexedDB as promises.

export const answered = (request) =>
  new Promise((resolve, reject) => {
    request.onsuccess = () => resolve(request.result);
    request.onerror = () => reject(request.error);
  });

// Resolves once a transaction is done.
export const finished = (transaction) =>
  new Promise((resolve, reject) => {
    transaction.oncomplete = () => resolve();
    transaction.onerror = () => reject(transaction.error);
    transaction.onabort = () => reject(transaction.error);
  });

// Whether this device has a database of this name; asking does not make one.
export const isThere = async (database) =>
  (await indexedDB.databases()).some(({ name }) => name === database);
