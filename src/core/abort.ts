import { FewMap } from './few-map.ts';

const waiting = new WeakMap<AbortSignal, FewMap<() => void, () => void>>();

/**
 * Calls back once when a signal is aborted, unless what this gives is called before. However many wait for a signal, it has
 * one listener: platforms take many for a mistake and say so.
 */
export function onAbort(signal: AbortSignal, call: () => void): () => void {
  let calls = waiting.get(signal);
  if (!calls) {
    const all = (calls = new FewMap<() => void, () => void>());
    waiting.set(signal, all);
    signal.addEventListener('abort', () => all.values().forEach((each) => each()), { once: true });
  }
  const own = calls;
  own.set(call, call);
  return () => own.delete(call);
}
