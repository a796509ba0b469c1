import type { CommandEntry } from './definition.ts';

/** Every command in the order of the work, by the headings of the help. A command's code is loaded when it is called. */
export const commandGroups: readonly Readonly<{ heading: string; commands: readonly CommandEntry[] }>[] = [
  {
    heading: 'Explore an API',
    commands: [
      {
        name: 'new',
        summary: 'create a project with one API and one chain',
        uses: 'local',
        load: () => import('./new.ts'),
      },
      {
        name: 'send',
        summary: 'send one request and show the response',
        uses: 'network',
        load: () => import('./send.ts'),
      },
      {
        name: 'look',
        summary: 'show a recorded exchange as it was sent and received',
        uses: 'local',
        load: () => import('./look.ts'),
      },
      {
        name: 'find',
        summary: 'find a value in a response and the paths that lead to it',
        uses: 'local',
        load: () => import('./find.ts'),
      },
      {
        name: 'value',
        summary: 'evaluate an expression on a recorded response or a file',
        uses: 'local',
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
        uses: 'local',
        load: () => import('./draft.ts'),
      },
      {
        name: 'add',
        summary: 'add the last exchange to a chain as a call',
        uses: 'local',
        load: () => import('./add.ts'),
      },
      {
        name: 'check',
        summary: 'find problems in chains before anything is sent',
        uses: 'local',
        load: () => import('./check.ts'),
      },
      {
        name: 'preview',
        summary: 'show the requests that a run would send',
        uses: 'local',
        load: () => import('./preview.ts'),
      },
      {
        name: 'draw',
        summary: 'draw a chain as a picture of its data, with what a run did',
        uses: 'local',
        load: () => import('./draw.ts'),
      },
      {
        name: 'forecast',
        summary: "estimate a run's requests, duration and quota use",
        uses: 'local',
        load: () => import('./forecast.ts'),
      },
      {
        name: 'rehearse',
        summary: 'replay a chain offline against recorded responses',
        uses: 'local',
        load: () => import('./rehearse.ts'),
      },
      { name: 'run', summary: 'run a chain', uses: 'network', load: () => import('./run.ts') },
      {
        name: 'resume',
        summary: 'resume a stopped run without repeating requests',
        uses: 'network',
        load: () => import('./resume.ts'),
      },
      {
        name: 'runs',
        summary: 'list recorded runs, or remove old ones',
        uses: 'local',
        load: () => import('./runs.ts'),
      },
      {
        name: 'compare',
        summary: 'show the differences between two runs or API descriptions',
        uses: 'local',
        load: () => import('./compare.ts'),
      },
      {
        name: 'report',
        summary: 'write reports of runs: HTML, JUnit XML, TAP, HAR, CSV, JSON, Markdown',
        uses: 'local',
        load: () => import('./report.ts'),
      },
      {
        name: 'serve',
        summary: 'answer requests as a recorded server did, or as a description says',
        uses: 'local',
        load: () => import('./serve.ts'),
      },
      {
        name: 'export',
        summary: 'print a recorded request, the schema of responses, or a workflow',
        uses: 'local',
        load: () => import('./export.ts'),
      },
    ],
  },
  {
    heading: 'Limits and credentials',
    commands: [
      {
        name: 'slices',
        summary: 'show the slices of divided runs, and give one up',
        uses: 'network',
        load: () => import('./slices.ts'),
      },
      {
        name: 'limits',
        summary: 'show the rate limits and quotas of the project, and open a closed one',
        uses: 'local',
        load: () => import('./limits.ts'),
      },
      {
        name: 'secrets',
        summary: 'list the secrets that the project needs, or set one',
        uses: 'local',
        load: () => import('./secrets.ts'),
      },
      {
        name: 'sign-in',
        summary: "test an API's sign-in and explain each request",
        uses: 'network',
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
        uses: 'local',
        load: () => import('./completion.ts'),
      },
      {
        name: 'about',
        summary: 'look up a key, name, function or message code',
        uses: 'local',
        load: () => import('./about.ts'),
      },
      {
        name: 'language-server',
        summary: 'complete, explain and check chains while you write them in an editor',
        uses: 'local',
        readsSecrets: false,
        load: () => import('./language-server.ts'),
      },
      {
        name: 'editor-schema',
        summary: "print the JSON Schema of the project's files for editors",
        uses: 'local',
        load: () => import('./editor-schema.ts'),
      },
      {
        name: 'demo',
        summary: 'see it work on a simulated harbour',
        uses: 'network',
        load: () => import('./demo.ts'),
      },
    ],
  },
];

export const commandEntries: readonly CommandEntry[] = commandGroups.flatMap(({ commands }) => commands);
