import { Argument, type Command } from 'commander';
import { shellQuoted } from '../../core/draft/shell-words.ts';
import { exchangesOf, findExchange, type ExchangeRecord } from '../../core/report/exchange.ts';
import type { RecordedRun } from '../../adapters/journal-reader.ts';
import type { ExitStatus, Io } from '../io.ts';
import { openRecord } from '../record.ts';
import { UsageFault } from '../usage-fault.ts';
import { openWorkspace } from '../workspace.ts';
import { examples, type CommandModule } from './definition.ts';

type Options = Readonly<{ run?: string }>;

/** `export curl [CALL]`: a recorded request as a curl command, its secrets as shell variables. */
export const command: CommandModule = {
  define: (sub: Command, run) => {
    sub
      .addArgument(new Argument('<form>', 'the form').choices(['curl']))
      .argument('[call]', 'the name or number of a call; without one the last request')
      .option('--run <id>', 'the run; without one the newest record')
      .action((_form: string, call: string | undefined, options: Options) =>
        run((io) => Promise.resolve(execute(call, options, io))),
      );
    examples(sub, 'batharon export curl', 'batharon export curl reserve --run last-good');
  },
};

function execute(call: string | undefined, { run }: Options, io: Io): ExitStatus {
  const record = openRecord(openWorkspace(io.cwd), run);
  const found = findExchange(exchangesOf(record.events), call);
  if (!found)
    throw new UsageFault(
      'call-not-found',
      `The record ${record.id} has no call "${call ?? ''}"`,
      'See what it has with: batharon look',
    );
  io.exit.out(`${curlCommand(found, record)}\n`);
  return 0;
}

/** Headers that curl writes by itself. */
const OWN: ReadonlySet<string> = new Set(['accept-encoding', 'user-agent', 'content-length', 'host']);

function curlCommand({ sent }: ExchangeRecord, record: RecordedRun): string {
  const { method, url, headers, body } = sent.request;
  const content = body && record.body(body);
  const parts = [
    `curl${method === 'GET' && !content ? '' : ` -X ${method}`} ${withVariables(url)}`,
    ...headers
      .filter(([name]) => !OWN.has(name.toLowerCase()))
      .map(([name, value]) => `-H ${withVariables(`${name}: ${value}`)}`),
    ...(content ? [`--data-raw ${withVariables(new TextDecoder().decode(content))}`] : []),
  ];
  return parts.join(' \\\n  ');
}

/** Quoted for a shell; what is masked becomes a variable, to be set before. */
function withVariables(text: string): string {
  if (!text.includes('‹')) return shellQuoted(text);
  return text
    .split(/(\u2039[^\u203a]*\u203a)/)
    .filter((part) => part !== '')
    .map((part) =>
      part.startsWith('‹')
        ? `"$${part
            .slice(1, -1)
            .toUpperCase()
            .replace(/[^A-Z0-9]+/g, '_')}"`
        : shellQuoted(part),
    )
    .join('');
}
