import { testAround } from './hosts.ts';
import { readChain } from '../../src/core/chain/chain-file.ts';
import { checkChain } from '../../src/core/chain/check.ts';
import { checkProject } from '../../src/core/chain/check-project.ts';
import { readProject } from '../../src/core/chain/project-file.ts';
import { withoutConsequences } from '../../src/core/diagnostics/consequences.ts';
import { positionOf, type Diagnostic } from '../../src/core/diagnostics/source.ts';

const PROJECT = `apis:
  harbour:
    deployments:
      sandbox: { url: http://127.0.0.1:1/v1, settings: { quay: N, pier: p } }
      live: { url: https://harbour.example/v1, settings: { quay: S } }
    default-deployment: sandbox
`;

/** `code line:column`, the form in which tables say what is expected. */
export const told = (diagnostics: readonly Diagnostic[]): readonly string[] =>
  diagnostics.map(({ code, file, range }) => {
    const { line, column } = positionOf(file, range[0]);
    return `${code} ${line}:${column}`;
  });

/** Everything that is wrong with a chain file in a project. */
export function chainProblems(text: string, projectText = PROJECT): readonly Diagnostic[] {
  // Tables of mistakes keep what nobody uses; the rule that says so has rows of its own.
  return allChainProblems(text, projectText).filter(({ code }) => code !== 'never-used');
}

export function allChainProblems(text: string, projectText = PROJECT): readonly Diagnostic[] {
  const { project } = readProject({ path: 'batharon.yaml', text: projectText });
  const { chain, diagnostics } = readChain({ path: 'test.chain.yaml', text });
  const found = chain ? checkChain(chain, project, { all: undefined, byApi: {} }, testAround) : [];
  return withoutConsequences([...diagnostics, ...found]);
}

/** Everything that is wrong with a project file. */
export function projectProblems(text: string): readonly Diagnostic[] {
  const { project, diagnostics } = readProject({ path: 'batharon.yaml', text });
  return [...diagnostics, ...(project ? checkProject(project, testAround) : [])];
}
