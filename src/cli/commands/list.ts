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
    heading: 'Get to know an API',
    commands: [
      {
        name: 'new',
        summary: 'make a project with one api and one chain',
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
        summary: 'find a value in a response, and the paths that lead to it',
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
        summary: 'make a chain, and a project, from a sample of documentation',
        sends: 'reads',
        load: () => import('./draft.ts'),
      },
      {
        name: 'add',
        summary: 'put the last exchange into a chain as a call',
        sends: 'reads',
        load: () => import('./add.ts'),
      },
      {
        name: 'check',
        summary: 'find what is wrong with chains before anything is sent',
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
        summary: 'requests, duration and quota of a run before it is sent',
        sends: 'reads',
        load: () => import('./forecast.ts'),
      },
      {
        name: 'rehearse',
        summary: 'run a chain offline, on what a run has recorded',
        sends: 'reads',
        load: () => import('./rehearse.ts'),
      },
      { name: 'run', summary: 'run a chain', sends: 'sends', load: () => import('./run.ts') },
      {
        name: 'resume',
        summary: 'go on with a run that stopped, sending nothing twice',
        sends: 'sends',
        load: () => import('./resume.ts'),
      },
      {
        name: 'runs',
        summary: 'list the runs that are recorded, or remove old ones',
        sends: 'reads',
        load: () => import('./runs.ts'),
      },
      {
        name: 'compare',
        summary: 'what is different between two runs',
        sends: 'reads',
        load: () => import('./compare.ts'),
      },
      {
        name: 'report',
        summary: 'reports of runs: a page, JUnit XML, TAP, HAR, CSV, JSON, Markdown',
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
        summary: 'list the secrets that the project asks for, or set one',
        sends: 'reads',
        load: () => import('./secrets.ts'),
      },
      {
        name: 'sign-in',
        summary: 'do the authentication of an api alone, and explain it',
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
        summary: 'completion for bash, zsh or fish',
        sends: 'reads',
        load: () => import('./completion.ts'),
      },
      {
        name: 'about',
        summary: 'the reference: a key, a function, a message code',
        sends: 'reads',
        load: () => import('./about.ts'),
      },
      {
        name: 'schema',
        summary: 'print the JSON Schema of the files, for editors',
        sends: 'reads',
        load: () => import('./schema.ts'),
      },
      {
        name: 'demo',
        summary: 'see it at work on a simulated harbour',
        sends: 'sends',
        load: () => import('./demo.ts'),
      },
    ],
  },
];

export const commandEntries: readonly CommandEntry[] = commandGroups.flatMap(({ commands }) => commands);
