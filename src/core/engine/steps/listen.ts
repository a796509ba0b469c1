import type { ListenStep } from '../../chain/model.ts';
import { stepKey } from '../../chain/step-key.ts';
import { diagnosticIn, wholeOf } from '../../diagnostics/source.ts';
import { fillText } from '../../template/fill.ts';
import { base64UrlText } from '../../value/json-write.ts';
import { filling } from '../fill.ts';
import { problemRecord } from '../places.ts';
import { resolversFor } from '../resolvers.ts';
import { secretInTemplate } from '../secrecy.ts';
import type { StepRunner } from './definition.ts';
import { ended } from './ended.ts';

/** Opens an address to be called back at; its path is one that nobody guesses, unless the file says another. */
export const runListen: StepRunner<ListenStep> = async (step, address, context) => {
  const end = ended(step, address, context);
  const { real, masked } = resolversFor(context);
  const filled = filling(() => ({
    path: step.path && fillText(step.path, real),
    // What is secret in it stays out of the record.
    shown: step.path && secretInTemplate(step.path, context.secretNames) && fillText(step.path, masked),
    seen: step.public && fillText(step.public, real),
  }));
  if ('diagnostic' in filled) return { ...end({ problem: problemRecord(filled.diagnostic) }), stops: true };
  const { kept } = context;
  // The server has been told of an address already, and the run is there again.
  const key = context.keyPrefix + stepKey(context.chain, step);
  const before = kept && (kept.isSameRun || kept.mode === 'rehearse') ? kept.records.listening(key) : undefined;
  if (before && (kept?.mode === 'rehearse' || context.isTidying)) {
    context.scope.bind(step.name, { url: before.url }, address);
    return end({ why: before.url });
  }
  const known = filled.value.path ?? before?.path ?? base64UrlText(context.runHost.randomness.bytes(16));
  // As it will be asked for: encoded, and without what is no part of a path.
  const path = new URL(known.replace(/^\/*/, '/').replace(/[?#].*$/s, ''), 'http://localhost').pathname;
  const { nameSource: source, bind = '127.0.0.1' } = step;
  const port = step.port ?? before?.port ?? 0;
  try {
    const server = await context.openCallbacks({ path, port, bind });
    context.callbacks.set(step.name, server);
    const base = (filled.value.seen ?? server.url.slice(0, -path.length)).replace(/\/$/, '');
    const url = base + path;
    const told = filled.value.shown === undefined ? path : filled.value.shown.replace(/^\/*/, '/');
    const { port: own } = server;
    context.recorder.record({
      type: 'listening',
      name: step.name,
      step: address,
      url: base + told,
      port: own,
      path: told,
    });
    context.scope.bind(step.name, { url }, address);
    const secret = step.path && secretInTemplate(step.path, context.secretNames);
    if (secret !== undefined) context.secretNames.set(step.name, secret);
    return end({ why: base + told });
  } catch (error) {
    const message = `Port ${port} at ${bind} cannot be opened: ${(error as Error).message}`;
    const problem = {
      code: 'address-taken' as const,
      range: wholeOf(source),
      message,
      advice: before && step.port === undefined ? 'Resume when it is free again.' : 'Remove port to use a free one.',
    };
    return { ...end({ problem: problemRecord(diagnosticIn(source, problem)) }), stops: true };
  }
};
