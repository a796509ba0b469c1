import type { At } from './endpoint-at.ts';
import { sorted, type Diagnostic } from '../diagnostics/source.ts';
import { rules } from './checks/list.ts';
import { ruleContext, type RuleSurroundings } from './checks/rule.ts';
import type { Chain } from './model.ts';
import { endpointsOf } from './endpoints.ts';
import type { Project } from './project-file.ts';
import { walkChain } from './walk.ts';

/** Everything that can be known to be wrong with a chain in its project before anything is sent, in order of place. */
export function checkChain(
  chain: Chain,
  project: Project | undefined,
  at: At,
  around: RuleSurroundings,
): readonly Diagnostic[] {
  const found: Diagnostic[] = [];
  const context = ruleContext(chain, project, at, around, found);
  const endpointOf = endpointsOf(project, at);
  walkChain(
    chain,
    { endpointOf: (call) => endpointOf(chain, call) },
    rules.map((rule) => rule(context)),
  );
  return sorted(found);
}
