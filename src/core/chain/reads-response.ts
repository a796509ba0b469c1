import { findFunction } from '../expression/functions/list.ts';
import type { Node } from '../expression/model.ts';
import { namesRead } from '../expression/names-read.ts';
import { eachNode } from './each-node.ts';
import { RESPONSE_NAMES } from './names.ts';

/** Whether an expression in a response key reads anything of the response. */
export function readsResponse(tree: Node): boolean {
  if (namesRead(tree).some((name) => name === '$' || name === 'response' || RESPONSE_NAMES.has(name))) return true;
  let reads = false;
  eachNode(tree, (node) => {
    if (node.kind === 'call' && findFunction(node.name)?.ofResponse) reads = true;
  });
  return reads;
}
