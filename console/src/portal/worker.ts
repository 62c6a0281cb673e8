import url from "./work-worker?worker&url";

// The page runs nothing that was not made into a script's address on purpose; there is one.
const own = (window as { trustedTypes?: TrustedTypes }).trustedTypes?.createPolicy("entente-work", {
  createScriptURL: (address) => address,
});

interface TrustedTypes {
  createPolicy: (
    name: string,
    rules: { createScriptURL: (address: string) => string },
  ) => { createScriptURL: (address: string) => string };
}

/** Does work that the service asks for, without holding up the page. */
export function doWork(seed: string, bits: number): Promise<string> {
  return new Promise((resolve, reject) => {
    const worker = new Worker(own ? own.createScriptURL(url) : url, { type: "module" });
    worker.onmessage = ({ data }: MessageEvent<string>) => {
      worker.terminate();
      resolve(data);
    };
    worker.onerror = () => {
      worker.terminate();
      reject(new Error("the worker failed"));
    };
    worker.postMessage({ seed, bits });
  });
}
