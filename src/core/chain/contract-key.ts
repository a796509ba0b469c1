import * as z from 'zod';
import type { ContractUse } from '../http/endpoint.ts';
import { choice, plainFileName } from '../schema/leaves.ts';
import { mapping } from '../schema/shape.ts';

const contractShape = mapping({
  file: plainFileName().describe('The OpenAPI description, relative to batharon.yaml.'),
  mode: choice('fail', 'warn')
    .optional()
    .describe('fail: what does not fit is an error (the default); warn: it is a note.'),
});

/** `contract`: the description that an API is held to. */
export const contract = z.union([
  plainFileName().transform((file): ContractUse | undefined => ({ file, mode: 'fail' })),
  contractShape.transform(({ file, mode }): ContractUse => ({ file, mode: mode ?? 'fail' })),
]);
