import { existsSync, realpathSync } from 'node:fs';
import path from 'node:path';
import { isInside, readSourceFile } from '../adapters/project-files.ts';
import { readChain } from '../core/chain/chain-file.ts';
import { changesIn, checkChoices } from '../core/chain/choices.ts';
import { endpointsOf } from '../core/chain/endpoints.ts';
import type { Chain, ChoicesFrom } from '../core/chain/model.ts';
import type { At, Project } from '../core/chain/project-file.ts';
import { checkUse, signsInTo, usesOf } from '../core/chain/uses.ts';
import { diagnosticIn, wholeOf, type Diagnostic, type Source } from '../core/diagnostics/source.ts';

/** The chains that a chain uses, directly and through others, and what is wrong with how they are used. */
export type UsedChains = Readonly<{
  chains: readonly Chain[];
  /** Those that are steps of it, or of one of them; not those that sign in. */
  steps: readonly Chain[];
  diagnostics: readonly Diagnostic[];
  /** The chain that a file of the project names. */
  chainAt(file: Source): Chain | undefined;
}>;

export const NO_CHAINS: UsedChains = { chains: [], steps: [], diagnostics: [], chainAt: () => undefined };

/** Chains inside of chains. */
const MAX_DEPTH = 16;

/** Reads the chains that a chain uses; a chain that comes to use itself is an error. `check` looks at each of them whole. */
export function usedChains(
  { cwd, folder, project }: Readonly<{ cwd: string; folder: string; project: Project | undefined }>,
  chain: Chain,
  at: At,
  check: (chain: Chain) => readonly Diagnostic[],
): UsedChains {
  const endpointOf = endpointsOf(project, at);
  const chains = new Map<string, Chain>();
  const diagnostics: Diagnostic[] = [];
  const steps = new Set<Chain>();
  const placeOf = (file: Source) => path.resolve(cwd, path.dirname(file.file.path), file.text);
  const visit = (
    using: Chain,
    under: readonly string[],
    signingIn: string | undefined,
    /** The choices for which all of it is run. */
    choosing?: ChoicesFrom,
  ): void => {
    for (const use of usesOf(using, endpointOf, signingIn ?? signsInTo(using, project))) {
      const place = placeOf(use.file);
      const report = (
        code: 'file-not-found' | 'outside-project' | 'circular-chain' | 'over-limit',
        message: string,
        advice: string,
      ) => diagnostics.push(diagnosticIn(use.file, { code, range: wholeOf(use.file), message, advice }));
      if (under.length > MAX_DEPTH) {
        report(
          'over-limit',
          `Chains can use each other ${MAX_DEPTH} levels deep at most`,
          'Use this chain at a higher level.',
        );
        continue;
      }
      if (under.includes(place)) {
        report(
          'circular-chain',
          `${use.file.text} uses itself, directly or through another chain`,
          'Remove one of these steps.',
        );
        continue;
      }
      if (existsSync(place) && !isInside(folder, realpathSync(place))) {
        report(
          'outside-project',
          `The chain ${use.file.text} is outside the project`,
          'Chains use those of their project only.',
        );
        continue;
      }
      const isNew = !chains.has(place);
      const used = chains.get(place) ?? read(place);
      // What is wrong with one that cannot be read is told already.
      if (used === 'unreadable') continue;
      if (!used) {
        report(
          'file-not-found',
          `The chain ${use.file.text} does not exist`,
          'Paths are relative to the file that names them.',
        );
        continue;
      }
      chains.set(place, used);
      const choices = use.choices ?? choosing;
      if (use.signsInTo === undefined && !choices) steps.add(used);
      diagnostics.push(...(use.choices ? checkChoices(use.choices, used) : checkUse(use, used)));
      if (choosing && use.signsInTo === undefined) diagnostics.push(...changesIn(choosing.chain, used));
      if (isNew) diagnostics.push(...check(used));
      visit(used, [...under, place], use.signsInTo ?? signingIn, choices);
    }
  };
  const read = (place: string): Chain | 'unreadable' | undefined => {
    const { file } = readSourceFile(place, cwd);
    if (!file) return undefined;
    const { chain: found, diagnostics: wrong } = readChain(file);
    diagnostics.push(...wrong);
    return found ?? 'unreadable';
  };
  visit(chain, [path.resolve(cwd, chain.file.path)], signsInTo(chain, project));
  return { chains: [...chains.values()], steps: [...steps], diagnostics, chainAt: (file) => chains.get(placeOf(file)) };
}
