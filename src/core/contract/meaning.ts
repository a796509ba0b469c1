import type { Contract } from './contract.ts';
import { DescriptionFault } from './documents.ts';
import { jsonShapesFor } from './judge-response.ts';
import type { Operation } from './operation.ts';
import { Shaper, type Shapes } from './shape-at.ts';

/** What a description says of a member of a JSON response: its type, and what it means; nothing where it says nothing. */
export function meaningOf(
  { description }: Contract,
  operation: Operation,
  status: number,
  keys: readonly (string | number)[],
): string | undefined {
  try {
    const body = jsonShapesFor(operation, status);
    const shaper = new Shaper(description);
    let shapes: Shapes = body;
    for (const key of keys) {
      const below = typeof key === 'number' ? shaper.items(shapes) : shaper.member(shapes, key).shapes;
      shapes = below ?? [];
    }
    const words = [shaper.typeWords(shapes), shaper.about(shapes)].filter(Boolean).join(', ');
    if (shapes.length > 0) return words || undefined;
    return body.length > 0 ? 'not described' : undefined;
  } catch (error) {
    if (error instanceof DescriptionFault) return undefined;
    throw error;
  }
}
