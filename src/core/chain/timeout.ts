import * as z from 'zod';
import { DEFAULT_TIMEOUTS, type Timeouts } from '../http/message.ts';
import { duration } from '../schema/measures.ts';
import { mapping } from '../schema/shape.ts';

export const timeoutShape = mapping({
  connect: duration().optional().describe('Name lookup, TCP and TLS; 10s by default.'),
  response: duration().optional().describe('From the request written to the last header byte; 60s by default.'),
  idle: duration().optional().describe('Between two pieces of a body; 60s by default.'),
  whole: duration().optional().describe('One exchange, from connecting to its last byte; without limit by default.'),
});

/** `timeout`: `10s` for one exchange in all, or its phases. */
export const timeout = z.union([
  duration().transform((whole): Timeouts | undefined =>
    whole === undefined ? undefined : { ...DEFAULT_TIMEOUTS, whole },
  ),
  timeoutShape.transform((given): Timeouts => {
    const said = Object.fromEntries(Object.entries(given).filter(([, milliseconds]) => milliseconds !== undefined));
    return { ...DEFAULT_TIMEOUTS, ...said };
  }),
]);
