import * as z from 'zod';
import { bodiesOf, bodyShape } from '../http/bodies/list.ts';
import { parameter, requestLine, word } from '../schema/leaves.ts';
import { namedOrWhole } from '../schema/whole-object.ts';
import { mapping } from '../schema/shape.ts';
import { expectations } from './steps/expect/list.ts';
import type { Undo } from './model.ts';

const BARE = { query: [], headers: [], body: undefined, auth: undefined, idempotencyKey: undefined } as const;

/** A request line, or a mapping with what else the request says. */
export const undo = () =>
  z.union([
    requestLine().transform((line): Undo => ({ request: { ...BARE, line }, expect: [] })),
    mapping({
      request: requestLine().describe('METHOD and target.'),
      query: namedOrWhole(parameter()).optional().describe('Query parameters by name.'),
      headers: namedOrWhole(parameter()).optional().describe('Headers of the request.'),
      ...bodyShape,
      type: word('a media type').optional().describe('The media type of the body.'),
      expect: expectations().optional().describe('Expectations on the response. Default: 2xx, 404 or 410.'),
    }).transform((given): Undo => ({
      request: {
        ...BARE,
        line: given.request,
        query: given.query ?? [],
        headers: given.headers ?? [],
        body: bodiesOf(given, given.type)[0],
      },
      expect: given.expect ?? [],
    })),
  ]);
