/**
 * Holding an attempt: its key lives in the page that began it. A page that is loaded again in its own tab takes it up once more, for a
 * short while; another tab, a browser that was quit, a closed tab that is opened again and the next visitor do not. Where several people
 * use one device nothing is kept at all.
 */

/** How long a page may take to be loaded again, in ms. */
const RELOAD = 60_000;
const NAME = "entente-holding";

/** Where the key is, as far as the tab knows. */
interface Holding {
  handle: string;
  reference: string;
  /** When the page was there last. */
  at: number;
}

export interface Held {
  reference: string;
  pair: CryptoKeyPair;
}

let release: (() => void) | undefined;

function store<T>(mode: IDBTransactionMode, use: (keys: IDBObjectStore) => IDBRequest<T>): Promise<T> {
  return new Promise((resolve, reject) => {
    const open = indexedDB.open("entente", 1);
    open.onupgradeneeded = () => open.result.createObjectStore("attempt-keys");
    open.onerror = () => reject(open.error);
    open.onsuccess = () => {
      const request = use(open.result.transaction("attempt-keys", mode).objectStore("attempt-keys"));
      request.onsuccess = () => resolve(request.result);
      request.onerror = () => reject(request.error);
      request.transaction!.oncomplete = () => open.result.close();
    };
  });
}

function noted(): Holding | null {
  try {
    return JSON.parse(sessionStorage.getItem(NAME) ?? "null") as Holding | null;
  } catch {
    return null;
  }
}

function note(holding: Holding | null): void {
  try {
    if (holding) sessionStorage.setItem(NAME, JSON.stringify(holding));
    else sessionStorage.removeItem(NAME);
  } catch {
    // A browser that keeps nothing loses the attempt with a reload, and nothing else.
  }
}

/** Only one living page has it: a copy of the tab finds it taken. */
function lock(handle: string): Promise<boolean> {
  return new Promise((resolve) => {
    if (!navigator.locks) {
      resolve(false);
      return;
    }
    void navigator.locks.request(`entente ${handle}`, { ifAvailable: true }, (got) => {
      if (!got) {
        resolve(false);
        return undefined;
      }
      resolve(true);
      return new Promise<void>((done) => (release = done));
    });
  });
}

/** Whether the page was loaded again where it was, and neither opened anew nor brought back. */
function reloaded(): boolean {
  const [navigation] = performance.getEntriesByType("navigation") as PerformanceNavigationTiming[];
  return navigation?.type === "reload" || Boolean((document as { wasDiscarded?: boolean }).wasDiscarded);
}

/** The page begins to hold an attempt. */
export async function hold(reference: string, pair: CryptoKeyPair, shared: boolean): Promise<void> {
  await forget();
  if (shared) return;
  try {
    const handle = crypto.randomUUID();
    if (!(await lock(handle))) return;
    await store("readwrite", (keys) => keys.put(pair, handle));
    note({ handle, reference, at: Date.now() });
  } catch {
    // As above.
  }
}

/** The page is still there. */
export function stay(): void {
  const holding = noted();
  if (holding && release) note({ ...holding, at: Date.now() });
}

/** What this very page held before it was loaded again; whatever else lies there is removed. */
export async function takeUp(idleSeconds: number, shared: boolean): Promise<Held | undefined> {
  const holding = noted();
  const limit = (document as { wasDiscarded?: boolean }).wasDiscarded ? idleSeconds * 1000 : RELOAD;
  try {
    if (holding && !shared && reloaded() && Date.now() - holding.at < limit && (await lock(holding.handle))) {
      const pair = await store("readonly", (keys) => keys.get(holding.handle) as IDBRequest<CryptoKeyPair | undefined>);
      if (pair) {
        stay();
        return { reference: holding.reference, pair };
      }
    }
    await forget();
  } catch {
    // Nothing is kept here, so there is nothing to take up.
  }
  return undefined;
}

/** The page holds nothing any more, and what pages left behind that are gone is removed as well. */
export async function forget(): Promise<void> {
  note(null);
  release?.();
  release = undefined;
  try {
    const living = new Set((await navigator.locks?.query())?.held?.map((one) => one.name) ?? []);
    const handles = (await store("readonly", (keys) => keys.getAllKeys())).map(String);
    for (const handle of handles) {
      if (!living.has(`entente ${handle}`)) await store("readwrite", (keys) => keys.delete(handle));
    }
  } catch {
    // Nothing was kept.
  }
}
