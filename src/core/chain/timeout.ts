import * as z from 'zod';
import { DEFAULT_TIMEOUTS, type Limit, type Timeouts } from '../http/message.ts';
import { duration } from '../schema/measures.ts';
import { mapping } from '../schema/shape.ts';

const timeoutShape = mapping({
  connect: duration().optional().describe('Name lookup, TCP and TLS. Default: 10s.'),
  response: duration().optional().describe('From sending the request to the last response header. Default: 60s.'),
  idle: duration().optional().describe('Between two parts of the body. Default: 60s.'),
  whole: duration().optional().describe('The whole request, from connecting to the last byte. Default: no limit.'),
});

/** `timeout`: `10s` for one exchange in all, and no part of it has a shorter limit by default; or its phases. */
export const timeout = z.union([
  duration().transform((whole): Timeouts | undefined =>
    whole === undefined ? undefined : { ...atLeast(whole), whole, said: ['whole'] },
  ),
  timeoutShape.transform((given): Timeouts => {
    const said = Object.fromEntries(Object.entries(given).filter(([, milliseconds]) => milliseconds !== undefined));
    return { ...DEFAULT_TIMEOUTS, ...said, said: Object.keys(said) as Limit[] };
  }),
]);

function atLeast(whole: number): Timeouts {
  const { connect, response, idle } = DEFAULT_TIMEOUTS;
  return { connect: Math.max(connect, whole), response: Math.max(response, whole), idle: Math.max(idle, whole) };
}
