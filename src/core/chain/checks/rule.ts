import type { At } from '../endpoint-at.ts';
import type { Problem } from '../../diagnostics/problem.ts';
import type { Source, SourceFile } from '../../diagnostics/source.ts';
import { diagnosticAt, diagnosticIn, type Diagnostic } from '../../diagnostics/source.ts';
import type { FileRead, FileRefused } from '../../expression/host.ts';
import type { Contract } from '../../contract/contract.ts';
import type { DescriptionProblem } from '../../contract/description.ts';
import type { OpenedFile } from '../../http/message.ts';
import type { Chain } from '../model.ts';
import type { Project } from '../project-file.ts';
import type { Visitor } from '../place.ts';

/** What a rule can look at and where it reports. */
export type RuleContext = Readonly<{
  chain: Chain;
  project: Project | undefined;
  /** The deployments that are chosen. */
  at: At;
  /** Reads a file that the chain names, relative to it. */
  readFile(path: string): FileRead;
  /** Opens a file that a request sends. */
  openFile(path: string): OpenedFile;
  /** What is wrong with a place that is to be written to, if anything. */
  unwritable(path: string): FileRefused | undefined;
  /** Whether files that responses should equal may be written. */
  accepts: boolean;
  /** The description that an API is held to, by the name of its file in the project file. */
  contractOf(file: string): Contract | DescriptionProblem;
  /** The name of the project's secret whose value a text is. */
  secretNamed(text: string): string | undefined;
  /** Reports a problem of a text inside a file. */
  reportIn(source: Source, problem: Problem): void;
  /** Reports a problem at a place of a file. */
  reportAt(file: SourceFile, problem: Problem): void;
}>;

/** One thing that must hold of a chain, named after it: a file here and a line in the list. */
export type Rule = (context: RuleContext) => Visitor;

/** What of the surroundings rules may look at. */
export type RuleSurroundings = Pick<
  RuleContext,
  'readFile' | 'openFile' | 'unwritable' | 'accepts' | 'secretNamed' | 'contractOf'
>;

export function ruleContext(
  chain: Chain,
  project: Project | undefined,
  at: At,
  around: RuleSurroundings,
  found: Diagnostic[],
): RuleContext {
  return {
    ...around,
    chain,
    project,
    at,
    reportIn: (source, problem) => found.push(diagnosticIn(source, problem)),
    reportAt: (file, problem) => found.push(diagnosticAt(file, problem)),
  };
}
