import { Argument, type Command } from 'commander';
import { exportForms } from '../../core/draft/export-forms.ts';
import { exchangesBack, findExchange } from '../../core/report/exchange.ts';
import type { ExitStatus, Io } from '../io.ts';
import { bodyText, openRecord } from '../../runner/record.ts';
import { CommandError } from '../../runner/command-error.ts';
import { openWorkspace } from '../../runner/workspace.ts';
import { exportWorkflow } from '../arazzo.ts';
import { printRecordedSchema } from '../recorded-schema.ts';
import { examples, several, type CommandModule } from './definition.ts';

type Options = Readonly<{ run: readonly string[] }>;

const SCHEMA = 'schema';
const ARAZZO = 'arazzo';

/**
 * `export FORM [CALL]`: a recorded request as a curl command, an HTTP message or a call of `fetch`, its secrets as variables; or
 * the JSON Schema of the recorded responses of a call; or a chain as a document of workflows (Arazzo).
 */
export const command: CommandModule = {
  define: (sub: Command, run) => {
    sub
      .addArgument(
        new Argument('<form>', 'format to print').choices([...exportForms.map(({ name }) => name), SCHEMA, ARAZZO]),
      )
      .argument('[call]', 'name or number of a call (default: the last request); with arazzo a chain file')
      .option('--run <id>', 'run to read; with schema repeatable (default: the newest record)', several, [])
      .action((form: string, call: string | undefined, options: Options) =>
        run((io) => Promise.resolve(execute(form, call, options, io))),
      );
    examples(
      sub,
      'batharon export curl',
      'batharon export fetch reserve --run last-good',
      'batharon export http 2',
      'batharon export schema vessels > chains/vessels.schema.json',
      'batharon export arazzo chains/described.chain.yaml > described.arazzo.yaml',
    );
  },
};

function execute(form: string, call: string | undefined, { run }: Options, io: Io): ExitStatus {
  if (form === ARAZZO) {
    if (call === undefined)
      throw new CommandError('invalid-option', 'export arazzo needs a chain file', 'Example: chains/berth.chain.yaml.');
    exportWorkflow(call, io);
    return 0;
  }
  const workspace = openWorkspace(io.cwd);
  if (form === SCHEMA) {
    io.exit.out(printRecordedSchema(call, run, workspace, io));
    return 0;
  }
  if (run.length > 1) throw new CommandError('invalid-option', `--run is given once with export ${form}`);
  const record = openRecord(workspace, run[0], io);
  const found = findExchange(exchangesBack(record.journal), call);
  if (!found)
    throw new CommandError(
      'call-not-found',
      `The record ${record.id} has no call "${call ?? ''}"`,
      'To see what it has: batharon look',
    );
  const { request } = found.sent;
  const { print } = exportForms.find(({ name }) => name === form)!;
  io.exit.out(`${print(request, bodyText(record, request.body))}\n`);
  return 0;
}
