import type { ListenStep } from '../../chain/model.ts';
import { fillText } from '../../template/fill.ts';
import { base64UrlText } from '../../value/json-write.ts';
import { problemAt } from '../places.ts';
import { resolversFor } from '../resolvers.ts';
import { secretInTemplate } from '../../template/secrecy.ts';
import type { StepFrame } from '../frame.ts';
import type { StepRunner } from './definition.ts';

/** Opens an address to be called back at; its path is one that nobody guesses, unless the file says another. */
export const runListen: StepRunner<ListenStep> = async (step, context, end) => {
  const { address, recorded, run } = context;
  const before = listenedBefore(context);
  const isHeard = recorded?.mode !== 'rehearse' && !context.cleanupOnly;
  if (before && !isHeard) {
    context.scope.bind(step.name, { url: before.url }, address);
    return end({ why: before.url });
  }
  const { path, told, secret } = pathOf(step, context, before);
  const { bind = '127.0.0.1' } = step;
  const port = step.port ?? before?.port ?? 0;
  try {
    const server = await run.openCallbacks({ path, port, bind });
    context.callbacks.set(step.name, server);
    const base = publicBase(step, context) ?? baseOf(server.url.slice(0, -path.length));
    const shown = base + told;
    run.recorder.record({
      type: 'listening',
      name: step.name,
      step: address,
      url: shown,
      port: server.port,
      path: told,
    });
    context.scope.bind(step.name, { url: base + path }, address);
    context.secretNames.set(step.name, secret);
    return end({ why: shown });
  } catch (error) {
    const message = `Port ${port} at ${bind} cannot be opened: ${(error as Error).message}`;
    const advice = port !== before?.port ? 'Remove port to use a free one.' : 'Resume when it is free again.';
    return end({ problem: problemAt(step.nameSource, 'address-taken', message, advice) });
  }
};

/** The address that the server was told of already, where the run is there again. */
function listenedBefore({ key, recorded }: StepFrame) {
  return recorded?.isSameRun || recorded?.mode === 'rehearse' ? recorded.records.steps.listening(key) : undefined;
}

/** The path that is listened at, and how it is recorded: what is secret in it stays out of the record. */
function pathOf({ path: template }: ListenStep, context: StepFrame, before: Readonly<{ path: string }> | undefined) {
  const { real, masked } = resolversFor(context);
  const wanted = template && fillText(template, real);
  const secret = template && secretInTemplate(template, context.secretNames);
  const known = wanted ?? before?.path ?? base64UrlText(context.runHost.randomness.bytes(16));
  // As it will be asked for: encoded, and without what is no part of a path.
  const path = new URL(fromRoot(known).replace(/[?#].*$/s, ''), 'http://localhost').pathname;
  return { path, told: template && secret ? fromRoot(fillText(template, masked)) : path, secret };
}

/** The address at which the server sees this machine, where the file says it. */
function publicBase({ public: template }: ListenStep, context: StepFrame): string | undefined {
  return template && baseOf(fillText(template, resolversFor(context).real));
}

function baseOf(url: string): string {
  return url.replace(/\/$/, '');
}

function fromRoot(path: string): string {
  return path.replace(/^\/*/, '/');
}
