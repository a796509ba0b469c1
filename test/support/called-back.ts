import type { Header } from '../../src/core/http/message.ts';
import type { CallbackAnswer, CallbackServer, ReceivedRequest } from '../../src/core/ports.ts';

/** An address at which callbacks with these bodies have arrived, and what they were answered. */
export function calledBack(
  bodies: readonly string[],
  headers: readonly Header[] = [],
): CallbackServer & { answers: CallbackAnswer[] } {
  const answers: CallbackAnswer[] = [];
  const requests = bodies.map((body): ReceivedRequest => ({
    method: 'POST',
    url: 'http://127.0.0.1:1/hook',
    headers: [['Content-Type', 'application/json'], ...headers],
    body: new TextEncoder().encode(body),
  }));
  return {
    url: 'http://127.0.0.1:1/hook',
    port: 1,
    answers,
    next: async (fits) => {
      const found = requests.find(fits);
      return found && { ...found, answer: (answer) => void answers.push(answer) };
    },
    close: () => {},
  };
}
