import type { At } from '../core/chain/endpoint-at.ts';
import { existsSync, realpathSync } from 'node:fs';
import path from 'node:path';
import { isInside } from '../adapters/project-files.ts';
import type { ProjectReading } from './project-reading.ts';
import { readChain } from '../core/chain/chain-file.ts';
import { changesIn, checkChoices } from '../core/chain/choices.ts';
import type { Code } from '../core/diagnostics/catalogue.ts';
import { endpointsOf, type EndpointOf } from '../core/chain/endpoints.ts';
import type { Chain, ChoicesFrom } from '../core/chain/model.ts';
import type { Project } from '../core/chain/project-file.ts';
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

/** A project, as far as chains of it are looked for. */
type Around = Readonly<{ cwd: string; folder: string; project: Project | undefined; reading: ProjectReading }>;

/** Reads the chains that a chain uses; a chain that comes to use itself is an error. `check` looks at each of them whole. */
export function usedChains(
  around: Around,
  chain: Chain,
  at: At,
  check: (chain: Chain) => readonly Diagnostic[],
): UsedChains {
  const found = new UsedChainsReader(around, at, check);
  found.visit(chain, [path.resolve(around.cwd, chain.file.path)], signsInTo(chain, around.project));
  const { chains, steps, diagnostics, placeOf } = found;
  return { chains: [...chains.values()], steps: [...steps], diagnostics, chainAt: (file) => chains.get(placeOf(file)) };
}

/** Goes from chain to chain, each read and checked once. */
class UsedChainsReader {
  readonly chains = new Map<string, Chain>();
  readonly steps = new Set<Chain>();
  readonly diagnostics: Diagnostic[] = [];
  private readonly endpointOf: EndpointOf;

  constructor(
    private readonly around: Around,
    at: At,
    private readonly check: (chain: Chain) => readonly Diagnostic[],
  ) {
    this.endpointOf = endpointsOf(around.project, at);
  }

  readonly placeOf = (file: Source): string => path.resolve(this.around.cwd, path.dirname(file.file.path), file.text);

  visit(
    using: Chain,
    under: readonly string[],
    signingIn: string | undefined,
    /** The choices for which all of it is run. */
    choosing?: ChoicesFrom,
  ): void {
    for (const use of usesOf(using, this.endpointOf, signingIn ?? signsInTo(using, this.around.project))) {
      const place = this.placeOf(use.file);
      const isNew = !this.chains.has(place);
      const used = this.refused(use.file, place, under) ? undefined : this.chainAt(use.file, place);
      if (!used) continue;
      const choices = use.choices ?? choosing;
      if (use.signsInTo === undefined && !choices) this.steps.add(used);
      this.diagnostics.push(...(use.choices ? checkChoices(use.choices, used) : checkUse(use, used)));
      if (choosing && use.signsInTo === undefined) this.diagnostics.push(...changesIn(choosing.chain, used));
      if (isNew) this.diagnostics.push(...this.check(used));
      this.visit(used, [...under, place], use.signsInTo ?? signingIn, choices);
    }
  }

  /** Whether a chain may not be used here, which is told. */
  private refused(file: Source, place: string, under: readonly string[]): boolean {
    if (under.length > MAX_DEPTH) {
      const message = `Chains can use each other ${MAX_DEPTH} levels deep at most`;
      this.report(file, 'over-limit', message, 'Use this chain at a higher level.');
      return true;
    }
    if (under.includes(place)) {
      const message = `${file.text} uses itself, directly or through another chain`;
      this.report(file, 'circular-chain', message, 'Remove one of these steps.');
      return true;
    }
    if (!existsSync(place) || isInside(this.around.folder, realpathSync(place))) return false;
    const message = `The chain ${file.text} is outside the project`;
    this.report(file, 'outside-project', message, 'Chains use those of their project only.');
    return true;
  }

  /** The chain at a place; nothing where it is not there or cannot be read, which is told. */
  private chainAt(file: Source, place: string): Chain | undefined {
    const known = this.chains.get(place);
    if (known) return known;
    const { file: source } = this.around.reading.readSource(place, this.around.cwd);
    if (!source) {
      const message = `The chain ${file.text} does not exist`;
      this.report(file, 'file-not-found', message, 'Paths are relative to the file that names them.');
      return undefined;
    }
    const { chain, diagnostics } = readChain(source);
    this.diagnostics.push(...diagnostics);
    if (chain) this.chains.set(place, chain);
    return chain;
  }

  private report(file: Source, code: Code, message: string, advice: string): void {
    this.diagnostics.push(diagnosticIn(file, { code, range: wholeOf(file), message, advice }));
  }
}
