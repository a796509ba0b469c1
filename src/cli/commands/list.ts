import type { CommandModule } from './definition.ts';

export type CommandEntry = Readonly<{
  name: string;
  summary: string;
  /** In one word, whether the command sends requests. */
  sends: 'sends' | 'reads';
  load(): Promise<{ command: CommandModule }>;
}>;

/** Every command in the order of the work, by the headings of the help. A command's code is loaded when it is called. */
export const commandGroups: readonly Readonly<{ heading: string; commands: readonly CommandEntry[] }>[] = [
  {
    heading: 'Explore an API',
    commands: [
      {
        name: 'new',
        summary: 'create a project with one API and one chain',
        sends: 'reads',
        load: () => import('./new.ts'),
      },
      {
        name: 'send',
        summary: 'send one request and show the response',
        sends: 'sends',
        load: () => import('./send.ts'),
      },
      {
        name: 'look',
        summary: 'show a recorded exchange as it was sent and received',
        sends: 'reads',
        load: () => import('./look.ts'),
      },
      {
        name: 'find',
        summary: 'find a value in a response and the paths that lead to it',
        sends: 'reads',
        load: () => import('./find.ts'),
      },
      {
        name: 'value',
        summary: 'evaluate an expression on a recorded response or a file',
        sends: 'reads',
        load: () => import('./value.ts'),
      },
    ],
  },
  {
    heading: 'Write and run chains',
    commands: [
      {
        name: 'draft',
        summary: 'create a chain from a sample request or an API description',
        sends: 'reads',
        load: () => import('./draft.ts'),
      },
      {
        name: 'add',
        summary: 'add the last exchange to a chain as a call',
        sends: 'reads',
        load: () => import('./add.ts'),
      },
      {
        name: 'check',
        summary: 'find problems in chains before anything is sent',
        sends: 'reads',
        load: () => import('./check.ts'),
      },
      {
        name: 'preview',
        summary: 'show the requests that a run would send',
        sends: 'reads',
        load: () => import('./preview.ts'),
      },
      {
        name: 'forecast',
        summary: "estimate a run's requests, duration and quota use",
        sends: 'reads',
        load: () => import('./forecast.ts'),
      },
      {
        name: 'rehearse',
        summary: 'replay a chain offline against recorded responses',
        sends: 'reads',
        load: () => import('./rehearse.ts'),
      },
      { name: 'run', summary: 'run a chain', sends: 'sends', load: () => import('./run.ts') },
      {
        name: 'resume',
        summary: 'resume a stopped run without repeating requests',
        sends: 'sends',
        load: () => import('./resume.ts'),
      },
      {
        name: 'runs',
        summary: 'list recorded runs, or remove old ones',
        sends: 'reads',
        load: () => import('./runs.ts'),
      },
      {
        name: 'compare',
        summary: 'show the differences between two runs',
        sends: 'reads',
        load: () => import('./compare.ts'),
      },
      {
        name: 'report',
        summary: 'write reports of runs: HTML, JUnit XML, TAP, HAR, CSV, JSON, Markdown',
        sends: 'reads',
        load: () => import('./report.ts'),
      },
      {
        name: 'export',
        summary: 'print a recorded request as a curl command',
        sends: 'reads',
        load: () => import('./export.ts'),
      },
    ],
  },
  {
    heading: 'Credentials',
    commands: [
      {
        name: 'secrets',
        summary: 'list the secrets that the project needs, or set one',
        sends: 'reads',
        load: () => import('./secrets.ts'),
      },
      {
        name: 'sign-in',
        summary: "test an API's sign-in and explain each request",
        sends: 'sends',
        load: () => import('./sign-in.ts'),
      },
    ],
  },
  {
    heading: 'Learn',
    commands: [
      {
        name: 'completion',
        summary: 'print the completion script for bash, zsh or fish',
        sends: 'reads',
        load: () => import('./completion.ts'),
      },
      {
        name: 'about',
        summary: 'look up a key, name, function or message code',
        sends: 'reads',
        load: () => import('./about.ts'),
      },
      {
        name: 'schema',
        summary: "print the JSON Schema of the project's files for editors",
        sends: 'reads',
        load: () => import('./schema.ts'),
      },
      {
        name: 'demo',
        summary: 'see it work on a simulated harbour',
        sends: 'sends',
        load: () => import('./demo.ts'),
      },
    ],
  },
];

export const commandEntries: readonly CommandEntry[] = commandGroups.flatMap(({ commands }) => commands);
