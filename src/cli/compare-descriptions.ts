import { AS_WRITTEN, readAt } from '../runner/deployments.ts';
import { findChains } from '../adapters/project-files.ts';
import { changesBetween, type Change } from '../core/contract/compare.ts';
import type { Contract } from '../core/contract/contract.ts';
import { DescriptionFault } from '../core/contract/documents.ts';
import { positionOf, type Diagnostic } from '../core/diagnostics/source.ts';
import { counted } from '../core/value/show.ts';
import { CommandError } from '../runner/command-error.ts';
import { contractMismatches, openWorkspace, type Workspace } from '../runner/workspace.ts';
import { descriptionAt } from './described.ts';
import type { ExitStatus, Io } from './io.ts';
import { paletteOf, type Palette } from './view/palette.ts';
import { padded, wrapped } from './view/text.ts';

/** What changed between two descriptions: what breaks chains of the project first. The status is 1 where something does. */
export function compareDescriptions(before: string, after: string, as: 'text' | 'json', io: Io): ExitStatus {
  const [old, now] = [descriptionAt(before, io), descriptionAt(after, io)];
  const changes = changesOf(old, now);
  const broken = brokenBy(old, now, openWorkspace(io.cwd), io);
  if (as === 'json') {
    const plain = {
      before,
      after,
      breaks: broken.map(({ file, range, message, advice }) => ({
        file: file.path,
        line: positionOf(file, range[0]).line,
        message,
        advice: advice ?? null,
      })),
      changes: changes.map(({ operation, text, mayBreak, at }) => ({
        operation,
        text,
        mayBreak,
        at: now.placeText(at),
      })),
    };
    io.exit.out(`${JSON.stringify(plain, null, 2)}\n`);
  } else io.exit.out(shown(old, now, changes, broken, paletteOf(io.colors), io.columns));
  return broken.length > 0 ? 1 : 0;
}

function changesOf(old: Contract, now: Contract): readonly Change[] {
  try {
    return changesBetween(old, now);
  } catch (error) {
    if (!(error instanceof DescriptionFault)) throw error;
    throw new CommandError('invalid-contract', `${now.placeText(error.at)}: ${error.message}`, error.advice);
  }
}

/** Places of chains that fit the first description and do not fit the second. */
function brokenBy(old: Contract, now: Contract, workspace: Workspace, io: Io): readonly Diagnostic[] {
  const at = readAt(AS_WRITTEN, io.environment, workspace.project);
  return (workspace.hasProject ? findChains(workspace.folder) : []).flatMap((file) => {
    const key = ({ range, message }: Diagnostic) => `${range.join()} ${message.replace(/ \([^)]*\)$/, '')}`;
    const before = new Set(contractMismatches(workspace, file, at, () => old).map(key));
    return contractMismatches(workspace, file, at, () => now).filter((each) => !before.has(key(each)));
  });
}

function shown(
  old: Contract,
  now: Contract,
  changes: readonly Change[],
  broken: readonly Diagnostic[],
  palette: Palette,
  columns: number,
): string {
  const name = ({ description: { title, version, file } }: Contract) => `${title} ${version} (${file})`;
  // What is gone stands in the first description.
  const placeIn = (at: Change['at']) => (now.description.documents.lineOf(at) ? now : old).placeText(at);
  const [risky, others] = [changes.filter(({ mayBreak }) => mayBreak), changes.filter(({ mayBreak }) => !mayBreak)];
  const lines = [
    palette.quiet(`${name(now)} compared with ${name(old)}`),
    ...section(
      'breaks chains of this project',
      broken.flatMap((each) => brokenLines(each, palette, columns)),
      palette.bad,
    ),
    ...section('may break who uses it', changeLines(risky, placeIn, palette, columns), palette.warning),
    ...section('other changes', changeLines(others, placeIn, palette, columns), palette.strong),
    '',
    `${counted(changes.length, 'change')}, ${risky.length} of them may break who uses it; ${counted(broken.length, 'place')} in the chains of this project ${broken.length === 1 ? 'breaks' : 'break'}`,
    '',
  ];
  return lines.join('\n');
}

function section(title: string, lines: readonly string[], paint: (text: string) => string): readonly string[] {
  return lines.length === 0 ? [] : ['', paint(title), ...lines];
}

function brokenLines(
  { file, range, message, advice }: Diagnostic,
  palette: Palette,
  columns: number,
): readonly string[] {
  const place = `${file.path}:${positionOf(file, range[0]).line}`;
  const text = [...wrapped(message, columns - 6), ...(advice === undefined ? [] : wrapped(advice, columns - 6))];
  return [`  ${palette.name(place)}`, ...text.map((line) => `    ${line}`)];
}

/** The changes of one operation under its name. */
function changeLines(
  changes: readonly Change[],
  placeIn: (at: Change['at']) => string,
  palette: Palette,
  columns: number,
): readonly string[] {
  let last: string | undefined;
  return changes.flatMap(({ operation, text, at }) => {
    const head = operation === last ? [] : [`  ${palette.strong(operation)}`];
    last = operation;
    const place = palette.quiet(placeIn(at));
    const [first = '', ...rest] = wrapped(text, Math.max(30, columns - 36));
    const width = Math.max(30, columns - 36);
    return [...head, `    ${padded(first, width)} ${place}`.trimEnd(), ...rest.map((line) => `    ${line}`)];
  });
}
