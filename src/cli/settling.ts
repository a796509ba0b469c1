import { askOne } from './ask-one.ts';
import type { RecordedRun } from '../adapters/journal-reader.ts';
import { mayRepeat } from '../core/chain/changes.ts';
import type { Chain } from '../core/chain/model.ts';
import { callsOf } from '../core/chain/steps/inside.ts';
import { doubtWords } from '../core/engine/call/doubt.ts';
import { lostAt, type CallRecords } from '../core/journal/call-records.ts';
import { itemOf, type Address } from '../core/journal/address.ts';
import { nameInKey } from '../core/journal/keys.ts';
import type { EventOf, SettledBody, Settlement } from '../core/journal/events.ts';
import { toStored } from '../core/journal/stored.ts';
import { readJson } from '../core/value/json-read.ts';
import { counted } from '../core/value/show.ts';
import { visible } from '../core/value/visible.ts';
import { CommandError } from '../runner/command-error.ts';
import type { Io } from './io.ts';
import { bodyText } from '../runner/record.ts';
import { paletteOf } from './view/palette.ts';
import { cut } from './view/text.ts';

/** What the command line says of requests, each by its address or `all`. */
export type Answers = Readonly<{
  sent: readonly string[];
  notSent: readonly string[];
  kept: readonly string[];
  resend: readonly string[];
  skip: readonly string[];
}>;

type Sent = EventOf<'sent'>;

/** What the command line says, as it is recorded. `CommandError` for an address at which there is nothing to say. */
export function settlementsOf(answers: Answers, record: RecordedRun, records: CallRecords): readonly SettledBody[] {
  const doubts = records.inDoubt();
  const settled = (said: string, as: Settlement): readonly SettledBody[] => {
    // Of changes that differ nobody knows before they are built: they are settled on the way.
    if (said === 'all') return as === 'sent' || as === 'not-sent' ? doubts.map((each) => settling(each, as)) : [];
    const lost = lostHere(said, record);
    return [settling(lost ?? sentAt(said, record), as)];
  };
  const kept = new Map<Sent, SettledBody>();
  for (const said of answers.kept) {
    const [, address = '', name = '', text = ''] = /^(.+?):([A-Za-z_]\w*)=(.*)$/s.exec(said) ?? [];
    if (name === '')
      throw new CommandError(
        'invalid-option',
        `--kept needs ADDRESS:NAME=VALUE, not "${said}"`,
        'Example: --kept 1/make:id=4711',
      );
    const sent = sentAt(address, record);
    const known = [...kept].find(([each]) => each.key === sent.key)?.[1];
    const json = readJson(text);
    const value = toStored(json.ok ? json.value : text);
    kept.set(sent, { ...settling(sent, 'sent'), kept: { ...known?.kept, [name]: value } });
  }
  const all = [
    ...answers.sent.flatMap((said) => settled(said, 'sent')),
    ...answers.notSent.flatMap((said) => settled(said, 'not-sent')),
    ...answers.resend.flatMap((said) => settled(said, 'resend')),
    ...answers.skip.flatMap((said) => settled(said, 'skip')),
    ...kept.values(),
  ];
  return [...new Map(all.map((each) => [each.key, each])).values()];
}

function settling({ step, key }: Pick<Sent, 'step' | 'key'>, as: Settlement): SettledBody {
  return { type: 'settled', step, key, as };
}

/** What a damaged record may have lost, where the run stopped for it. */
function lostHere(said: string, { journal }: RecordedRun): Pick<Sent, 'step' | 'key'> | undefined {
  const end = journal.last();
  if (end?.type !== 'paused' || end.why !== 'doubt' || end.step === undefined) return undefined;
  const { step } = end;
  return isAt(step, said) ? { step, key: lostAt(step) } : undefined;
}

/** Whether a step is at an address, said whole or as `2#5.2` for `2#5.2/ask-clearance`. */
function isAt(step: Address, said: string): boolean {
  return step === said || step.startsWith(`${said}/`);
}

/** The last request that was sent at an address. */
function sentAt(said: string, { journal }: RecordedRun): Sent {
  for (const event of journal.backwards()) if (event.type === 'sent' && isAt(event.step, said)) return event;
  throw new CommandError(
    'invalid-option',
    `This run sent no request at ${said}`,
    'Addresses are at the start of each line, for example 2#5.2.',
  );
}

/** Requests in doubt but for those of calls that may be repeated by now. */
export function doubtsLeft(records: CallRecords, chainNow: () => Chain | undefined): readonly Sent[] {
  const doubts = records.inDoubt();
  if (doubts.length === 0) return doubts;
  const chain = chainNow();
  const calls = new Map(chain && callsOf(chain).map((call) => [call.name, call]));
  return doubts.filter(({ key }) => {
    const call = calls.get(nameInKey(key));
    return !call || !mayRepeat(call);
  });
}

const BECAME = {
  'it was processed': 'sent',
  'it was not processed': 'not-sent',
  'I do not know: stop': undefined,
} as const;

/** Asks what became of each request in doubt, or tells all of them; nothing when one of them stays in doubt. */
export async function settleDoubts(
  doubts: readonly Sent[],
  record: RecordedRun,
  io: Io,
): Promise<readonly SettledBody[] | undefined> {
  if (doubts.length === 0) return [];
  const { bad, quiet } = paletteOf(io.colors);
  const write = io.exit.err;
  write(
    `${bad('error in-doubt')}: ${counted(doubts.length, 'request')} went out and ${doubts.length === 1 ? 'was' : 'were'} never answered; nothing is sent until you say what became of ${doubts.length === 1 ? 'it' : 'them'}\n`,
  );
  const items = new Map<string, string>();
  for (const event of record.journal)
    if (event.type === 'opened' && event.item?.label !== undefined) items.set(event.step, event.item.label);
  for (const doubt of doubts) write(`${told(doubt, items.get(itemOf(doubt.step)), record, quiet)}\n`);
  if (io.mayAsk) {
    const settled: SettledBody[] = [];
    for (const doubt of doubts) {
      const answer = await askOne(`Did the server process ${doubt.step}?`, BECAME, io);
      if (answer === undefined) return undefined;
      settled.push(settling(doubt, answer));
    }
    return settled;
  }
  const [first] = doubts;
  const one = (option: string) => `batharon resume ${record.id} ${option} ${first!.step}`;
  write(`Check at the server, then:\n  ${one('--sent')}   it was processed\n  ${one('--not-sent')}   it was not\n`);
  if (doubts.length > 1) write(`Each option may be repeated, and "all" stands for all of them.\n`);
  write(`What it would have kept is given by --kept ${first!.step}:NAME=VALUE, which says --sent as well.\n`);
  return undefined;
}

function told(doubt: Sent, item: string | undefined, record: RecordedRun, quiet: (text: string) => string): string {
  const { step, idempotencyKey, request } = doubt;
  const content = bodyText(record, request.body);
  const body = content === undefined ? '' : `\n    ${quiet(visible(cut(content, 200)))}`;
  const key = idempotencyKey === undefined ? '' : `, Idempotency-Key ${idempotencyKey}`;
  const of = item === undefined ? '' : ` (${visible(item)})`;
  return `  ${step}${of}   ${visible(doubtWords(doubt))}${key}${body}`;
}
