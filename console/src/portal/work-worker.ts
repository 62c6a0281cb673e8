import { findNonce } from "./work";

onmessage = ({ data }: MessageEvent<{ seed: string; bits: number }>) => {
  postMessage(findNonce(data.seed, data.bits));
};
