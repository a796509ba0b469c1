import type { Problem } from '../../diagnostics/problem.ts';
import type { Source, SourceFile } from '../../diagnostics/source.ts';
import { diagnosticAt, diagnosticIn, type Diagnostic } from '../../diagnostics/source.ts';
import type { Chain } from '../model.ts';
import type { Project } from '../project-file.ts';
import type { Visitor } from '../walk.ts';

/** What a rule can look at and where it reports. */
export type RuleContext = Readonly<{
  chain: Chain;
  project: Project | undefined;
  /** Reports a problem of a text inside a file. */
  reportIn(source: Source, problem: Problem): void;
  /** Reports a problem at a place of a file. */
  reportAt(file: SourceFile, problem: Problem): void;
}>;

/** One thing that must hold of a chain, named after it: a file here and a line in the list. */
export type Rule = (context: RuleContext) => Visitor;

export function ruleContext(chain: Chain, project: Project | undefined, found: Diagnostic[]): RuleContext {
  return {
    chain,
    project,
    reportIn: (source, problem) => found.push(diagnosticIn(source, problem)),
    reportAt: (file, problem) => found.push(diagnosticAt(file, problem)),
  };
}
