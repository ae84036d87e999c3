// A shelf of the browser for what is too large for its other stores: pictures that wait until they can be sent.
const NAME = 'rulvek'
const STORE = 'waiting'

function opened(): Promise<IDBDatabase> {
  return new Promise((resolve, reject) => {
    const request = indexedDB.open(NAME, 1)
    request.onupgradeneeded = () => request.result.createObjectStore(STORE)
    request.onsuccess = () => resolve(request.result)
    request.onerror = () => reject(request.error)
  })
}

async function act<T>(mode: IDBTransactionMode, work: (store: IDBObjectStore) => IDBRequest<T>): Promise<T> {
  const database = await opened()
  try {
    return await new Promise<T>((resolve, reject) => {
      const transaction = database.transaction(STORE, mode)
      const request = work(transaction.objectStore(STORE))
      transaction.oncomplete = () => resolve(request.result)
      transaction.onerror = transaction.onabort = () => reject(transaction.error)
    })
  } finally {
    database.close()
  }
}

/** Put something away under a key, in place of what is there. */
export const putAway = (key: string, value: unknown) => act('readwrite', (store) => store.put(value, key))
/** What lies under a key; undefined where nothing does, or where this browser has no shelf. */
export const takenFrom = <T>(key: string): Promise<T | undefined> =>
  act<T | undefined>('readonly', (store) => store.get(key) as IDBRequest<T | undefined>).catch(() => undefined)
export const cleared = (key: string) => act('readwrite', (store) => store.delete(key)).catch(() => undefined)
