import type { ListenStep } from '../../chain/model.ts';
import { fillText } from '../../template/fill.ts';
import { base64UrlText } from '../../value/json-write.ts';
import { problemAt } from '../places.ts';
import { resolversFor } from '../resolvers.ts';
import { secretInTemplate } from '../../template/secrecy.ts';
import type { StepRunner } from './definition.ts';

/** Opens an address to be called back at; its path is one that nobody guesses, unless the file says another. */
export const runListen: StepRunner<ListenStep> = async (step, context, end) => {
  const { address, key, recorded, run } = context;
  const { real, masked } = resolversFor(context);
  const wanted = step.path && fillText(step.path, real);
  // What is secret in it stays out of the record.
  const secret = step.path && secretInTemplate(step.path, context.secretNames);
  const shown = step.path && secret !== undefined ? fillText(step.path, masked) : undefined;
  const seen = step.public && fillText(step.public, real);
  // The server has been told of an address already, and the run is there again.
  const isThere = recorded && (recorded.isSameRun || recorded.mode === 'rehearse');
  const before = isThere ? recorded.records.listening(key) : undefined;
  if (before && (recorded?.mode === 'rehearse' || context.cleanupOnly)) {
    context.scope.bind(step.name, { url: before.url }, address);
    return end({ why: before.url });
  }
  const known = wanted ?? before?.path ?? base64UrlText(context.runHost.randomness.bytes(16));
  // As it will be asked for: encoded, and without what is no part of a path.
  const path = new URL(known.replace(/^\/*/, '/').replace(/[?#].*$/s, ''), 'http://localhost').pathname;
  const { nameSource: source, bind = '127.0.0.1' } = step;
  const port = step.port ?? before?.port ?? 0;
  try {
    const server = await run.openCallbacks({ path, port, bind });
    context.callbacks.set(step.name, server);
    const base = (seen ?? server.url.slice(0, -path.length)).replace(/\/$/, '');
    const url = base + path;
    const told = shown === undefined ? path : shown.replace(/^\/*/, '/');
    const { port: own } = server;
    run.recorder.record({
      type: 'listening',
      name: step.name,
      step: address,
      url: base + told,
      port: own,
      path: told,
    });
    context.scope.bind(step.name, { url }, address);
    context.secretNames.set(step.name, secret);
    return end({ why: base + told });
  } catch (error) {
    const message = `Port ${port} at ${bind} cannot be opened: ${(error as Error).message}`;
    const advice =
      before && step.port === undefined ? 'Resume when it is free again.' : 'Remove port to use a free one.';
    return end({ problem: problemAt(source, 'address-taken', message, advice) });
  }
};
