import { parentPort } from 'node:worker_threads';
import path from 'node:path';
import { correctedLine } from '../core/diagnostics/fix.ts';
import type { Edit, Range } from '../core/diagnostics/problem.ts';
import type { Diagnostic } from '../core/diagnostics/source.ts';
import { checkedChain } from '../runner/workspace.ts';
import { kindOf } from './file-kind.ts';
import { Projects } from './projects.ts';
import type { ProjectView } from './project-view.ts';

/** What the thread that answers the editor tells the one that checks. */
export type ToChecker =
  | Readonly<{ kind: 'text'; file: string; text: string }>
  | Readonly<{ kind: 'closed'; file: string }>
  | Readonly<{ kind: 'changed'; file: string }>
  | Readonly<{ kind: 'check'; id: number; file: string }>;

/** A problem as it goes from thread to thread. */
export type FoundProblem = Readonly<{
  range: Range;
  level: 'error' | 'warning';
  code: string;
  /** Message, list and advice, a line each. */
  text: string;
  correction: (Edit & Readonly<{ title: string; isSure: boolean }>) | undefined;
}>;

/** What is wrong with the files of a check: the one that was asked for, and those that use it. */
export type Checked = Readonly<{
  id: number;
  files: readonly Readonly<{ file: string; problems: readonly FoundProblem[] }>[];
}>;

/** Checks files in a thread of its own, so that nobody who types waits for it. */
export function serveChecks(): void {
  const projects = new Projects(process.env);
  parentPort!.on('message', (message: ToChecker) => {
    switch (message.kind) {
      case 'text':
        projects.buffers.put(message.file, message.text);
        return projects.changed(message.file, false);
      case 'closed':
        return projects.closed(message.file);
      case 'changed':
        return projects.changed(message.file, true);
      case 'check':
        return parentPort!.postMessage({
          id: message.id,
          files: checkedFiles(message.file, projects),
        } satisfies Checked);
    }
  });
}

function checkedFiles(file: string, projects: Projects): Checked['files'] {
  const project = projects.of(file);
  if (kindOf(file) === 'chain') return [file, ...project.usersOf(file)].map((each) => checkedFile(each, project));
  const open = projects.buffers
    .all()
    .filter((each) => kindOf(each.file) === 'chain' && projects.of(each.file) === project);
  const own = { file, problems: problemsOf(file, project.workspace().diagnostics, project) };
  return [own, ...open.map((each) => checkedFile(each.file, project))];
}

function checkedFile(file: string, project: ProjectView): Checked['files'][number] {
  const source = project.sourceOf(file);
  const found = source ? checkedChain(project.workspace(), source, project.at()).diagnostics : [];
  return { file, problems: problemsOf(file, found, project) };
}

/** The problems of a file itself; those of others are told where they are. */
function problemsOf(file: string, found: readonly Diagnostic[], { folder }: ProjectView): readonly FoundProblem[] {
  return found.filter((each) => path.resolve(folder, each.file.path) === file).map(problemOf);
}

function problemOf(found: Diagnostic): FoundProblem {
  const { range, level, code, message, advice, list = [], edit, fix } = found;
  const text = [message, ...list, ...(advice === undefined ? [] : [advice])].join('\n');
  const title = edit && `Write ${(correctedLine(found) ?? edit.text).trim()}`;
  const correction = edit && { ...edit, title: title!, isSure: fix?.sure === true };
  return { range, level, code, text, correction };
}
