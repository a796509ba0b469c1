import type { Secrecy } from '../../expression/secrecy.ts';
import { itemIn, numbersOf } from '../../journal/address.ts';
import type { RowsFile } from '../../ports.ts';
import { plainTextOf } from '../../template/template.ts';
import { Mask } from '../../value/value.ts';
import { bareName } from '../../chain/streamable-lists.ts';
import type { EachStep, TableForm } from '../../chain/model.ts';
import type { EventOf } from '../../journal/events.ts';
import type { StepFrame } from '../frame.ts';
import type { ItemAt } from '../item-identity.ts';

/** How the table is laid out that a loop goes over. */
function tableOf({ list }: EachStep, { chain }: StepFrame): TableForm | undefined {
  const name = bareName(list);
  return chain.inputs.find((input) => input.name === name && input.type === 'table')?.table;
}

/** What the end of the chain knows of an item that failed before. */
export function failedStep(
  { step: address, problem, name, kind }: EventOf<'ended'>,
  item: ItemAt,
): StepFrame['failed'][number] {
  const { code = '', message: reason = '', source } = problem ?? {};
  const place = `${source?.file ?? ''}:${source?.line ?? 0}`;
  return { address, step: name ?? kind, item: item.label ?? item.index + 1, code, reason, status: null, place };
}

/** Puts an item that failed into the file for them. */
export function reject(
  file: RowsFile,
  step: EachStep,
  { index, value }: ItemAt,
  secret: Secrecy | undefined,
  context: StepFrame,
): void {
  const { address } = context;
  const failed = context.failed.findLast((each) => itemIn(address, each.address) === index + 1);
  const item = secret === undefined ? value : new Mask(secret.name);
  const order = [...numbersOf(address), index];
  const isChosen = plainTextOf(step.rejects!) === undefined && !step.replace;
  const told = { order, item, step: failed?.step ?? '', reason: failed?.reason ?? '' };
  context.run.writtenFiles.reject(file, address, told, { isChosen, table: tableOf(step, context) });
}
