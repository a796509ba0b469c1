import { Option, type Command } from 'commander';
import { callNameOf, draftOf } from '../../core/draft/draft.ts';
import { draftForms } from '../../core/draft/list.ts';
import { openWorkspace } from '../../runner/workspace.ts';
import { groundOf } from '../draft-ground.ts';
import type { ExitStatus, Io } from '../io.ts';
import { readSamples, textOfSample, type SampleOptions } from '../samples.ts';
import { writeDraft } from '../write-draft.ts';
import { examples, type CommandModule } from './definition.ts';

type Options = SampleOptions & Readonly<{ api?: string; name?: string; into?: string }>;

/** `draft [SAMPLE]`: calls from samples of documentation or a capture; in an empty folder the project too. */
export const command: CommandModule = {
  define: (sub: Command, run) => {
    sub
      .argument('[sample]', 'samples as one text, or a file that contains them (default: standard input)')
      .addOption(
        new Option('--from <form>', 'form of the samples, if it is not recognised').choices(
          draftForms.map((form) => form.name),
        ),
      )
      .option('--into <chain>', 'chain file to write or to append to (default: chains/NAME.chain.yaml)')
      .option('--name <name>', 'name of the first call')
      .option('--api <name>', 'name for a new API')
      .option('--matching <word>', 'of a capture, only requests with this word in their URL')
      .option('--browser-headers', 'of a capture, keep the headers that browsers add')
      .action((sample: string | undefined, options: Options) => run((io) => execute(sample, options, io)));
    examples(
      sub,
      `batharon draft "curl -H 'Authorization: Bearer ...' https://harbour.example/v1/arrivals"`,
      'batharon draft sample.txt --into chains/arrivals.chain.yaml',
      'batharon draft capture.har --matching /v1/',
    );
  },
};

async function execute(sample: string | undefined, options: Options, io: Io): Promise<ExitStatus> {
  const text = await textOfSample(sample, io);
  const workspace = openWorkspace(io.cwd);
  const samples = readSamples(text, options, workspace, io);
  const into = options.into ?? `chains/${options.name ?? callNameOf(samples[0]!.request)}.chain.yaml`;
  writeDraft(draftOf(samples, groundOf(workspace, into, options, io)), into, workspace, io);
  return 0;
}
