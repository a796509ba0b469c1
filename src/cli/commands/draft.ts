import { Option, type Command } from 'commander';
import { callNameOf, draftOf } from '../../core/draft/draft.ts';
import { draftForms } from '../../core/draft/list.ts';
import { openWorkspace } from '../../runner/workspace.ts';
import { CommandError } from '../../runner/command-error.ts';
import { draftWorkflows, isArazzo } from '../arazzo.ts';
import { descriptionAt, draftDescribed, isDescription, listOperations, type DescribedOptions } from '../described.ts';
import { groundOf } from '../draft-ground.ts';
import type { ExitStatus, Io } from '../io.ts';
import { readSamples, textOfSample, type SampleOptions } from '../samples.ts';
import { writeDraft } from '../write-draft.ts';
import { examples, type CommandModule } from './definition.ts';

type Options = SampleOptions & DescribedOptions;

/** A document that is drafted from as a whole, and is no sample. */
type DocumentForm = Readonly<{
  name: string;
  what: string;
  recognizes(text: string): boolean;
  draft(file: string, operations: readonly string[], options: Options, io: Io): void;
}>;

const documentForms: readonly DocumentForm[] = [
  { name: 'openapi', what: 'An API description', recognizes: isDescription, draft: describe },
  {
    name: 'arazzo',
    what: 'A document of workflows',
    recognizes: isArazzo,
    draft: (file, _operations, options, io) => draftWorkflows(file, options, io),
  },
];

/** `draft [SAMPLE]`: calls from samples of documentation or a capture; in an empty folder the project too. */
export const command: CommandModule = {
  define: (sub: Command, run) => {
    sub
      .argument('[sample]', 'samples as one text, or a file that contains them (default: standard input)')
      .argument('[operations...]', 'of an API description, operations by id or as "GET /path"')
      .addOption(
        new Option('--from <form>', 'form of the samples, if it is not recognised').choices([
          ...draftForms.map((form) => form.name),
          ...documentForms.map((form) => form.name),
        ]),
      )
      .option('--into <chain>', 'chain file to write or to append to (default: chains/NAME.chain.yaml)')
      .option('--name <name>', 'name of the first call')
      .option('--api <name>', 'name for a new API')
      .option('--matching <word>', 'of a capture, only requests with this word in their URL')
      .option('--browser-headers', 'of a capture, keep the headers that browsers add')
      .option('--list [word]', 'of an API description, list the operations that mention a word')
      .option('--url <url>', 'of an API description, where the API is')
      .action((sample: string | undefined, operations: readonly string[], options: Options) =>
        run((io) => execute(sample, operations, options, io)),
      );
    examples(
      sub,
      `batharon draft "curl -H 'Authorization: Bearer ...' https://harbour.example/v1/arrivals"`,
      'batharon draft sample.txt --into chains/arrivals.chain.yaml',
      'batharon draft capture.har --matching /v1/',
      'batharon draft day.arazzo.yaml',
      'batharon draft openapi/harbour.yaml --list arrivals',
      'batharon draft openapi/harbour.yaml listArrivals getVessel --into chains/day.chain.yaml',
    );
  },
};

const EXAMPLE = 'Example: batharon draft openapi/harbour.yaml --list';

async function execute(
  sample: string | undefined,
  operations: readonly string[],
  options: Options,
  io: Io,
): Promise<ExitStatus> {
  const text = await textOfSample(sample, io);
  const workspace = openWorkspace(io.cwd);
  const isFile = sample !== undefined && sample !== '-' && !/\s/.test(sample);
  const form = documentForms.find(({ name, recognizes }) =>
    options.from === undefined ? isFile && recognizes(text) : options.from === name,
  );
  if (form) {
    if (!isFile) throw new CommandError('invalid-option', `${form.what} is read from a file`, EXAMPLE);
    form.draft(sample, operations, options, io);
    return 0;
  }
  if (operations.length > 0 || options.list !== undefined)
    throw new CommandError('invalid-option', 'Operations are those of an API description', EXAMPLE);
  const samples = readSamples(text, options, workspace, io);
  const into = options.into ?? `chains/${options.name ?? callNameOf(samples[0]!.request)}.chain.yaml`;
  writeDraft(draftOf(samples, groundOf(workspace, into, options, io)), into, workspace, io);
  return 0;
}

function describe(file: string, operations: readonly string[], options: Options, io: Io): void {
  const contract = descriptionAt(file, io);
  const { list } = options;
  if (list !== undefined) listOperations(contract, list === true ? undefined : list, io);
  else if (operations.length > 0) draftDescribed(contract, operations, options, openWorkspace(io.cwd), io);
  else
    throw new CommandError(
      'invalid-option',
      `Name operations of ${file}`,
      `To list them: batharon draft ${file} --list`,
    );
}
