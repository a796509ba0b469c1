import path from 'node:path';
import type { RecordedRun } from '../adapters/journal-reader.ts';
import { stepName } from '../core/journal/address.ts';
import type { ExchangeRecord } from '../core/report/exchange.ts';
import { contentForm } from '../core/value/content-form.ts';
import { pageForm, quietPage } from '../core/value/quiet-page.ts';
import { utf8Text } from '../core/value/utf8.ts';
import { CommandError } from '../runner/command-error.ts';
import type { ExitStatus, Io } from './io.ts';
import { binaryWords } from './view/exchange.ts';
import { sized } from './view/text.ts';

/** What is opened: in words, and a file of our own name, whatever the server called it. */
type Opened = Readonly<{ words: string; name: string; content: string | Uint8Array }>;

/** Opens the body of a recorded response with the system's program, after saying what it is. */
export async function openBody({ sent, answered }: ExchangeRecord, record: RecordedRun, io: Io): Promise<ExitStatus> {
  const call = stepName(sent.step);
  const body = answered?.body && record.body(answered.body);
  if (!body) {
    const wasSaved = answered?.body && 'dropped' in answered.body && answered.body.dropped === 'saved';
    const advice = wasSaved
      ? 'The chain saved it to a file: open that.'
      : 'To see what is recorded of it: batharon look, without --open.';
    throw new CommandError('not-decodable', `No body of the response of ${call} is in the record`, advice);
  }
  const opened = whatToOpen(body, answered.body?.type, call);
  const { folderToOpen, openWithSystem } = await import('../adapters/open-file.ts');
  const file = path.join(folderToOpen(), opened.name);
  io.exit.writeFile(file, opened.content, 0o600);
  io.exit.err(`opening ${opened.words}, the response of ${call} in run ${record.id}\n`);
  if (await openWithSystem(file)) return 0;
  io.exit.err(`No program of this system opens it. The file: ${file}\n`);
  return 1;
}

function whatToOpen(body: Uint8Array, type: string | undefined, call: string): Opened {
  const form = contentForm(body);
  if (form?.isShown) return { words: binaryWords(body, type), name: `response.${form.ending}`, content: body };
  const text = utf8Text(body);
  const page = text === undefined ? undefined : pageForm(text);
  if (page && text !== undefined) {
    const words = `${page}, ${sized(body.length)}, without scripts and network`;
    return { words, name: 'response.html', content: quietPage(page, text, `${page}, the response of ${call}`) };
  }
  const what = form ? form.name : text === undefined ? 'of a form that is not known here' : 'text';
  throw new CommandError(
    'not-decodable',
    `The response of ${call} is ${what}, which is not opened`,
    'What is opened: pictures, sound, video, PDF, HTML and SVG, by what the content is.',
  );
}
