import type { Readable, Writable } from 'node:stream';
import type { ClientCapabilities, Connection, ServerCapabilities } from 'vscode-languageserver/node';
import { VERSION } from '../runner/version.ts';
import { Desk, type ShownTexts } from './desk.ts';
import { features } from './features/list.ts';
import { fileOf } from './buffers.ts';
import type { Encoding } from './positions.ts';

/** Where the server hears and speaks, and what it may show. */
export type Surroundings = Readonly<{
  input: Readable;
  output: Writable;
  environment: NodeJS.ProcessEnv;
  texts: ShownTexts;
}>;

/** What is watched for changes that no editor makes. */
const WATCHED = ['**/*.chain.{yaml,yml}', '**/batharon*.yaml', '**/secrets.env', '**/*.{json,csv}'];

/** Serves the Language Server Protocol 3.17 until the editor ends it. Gives the exit status. */
export async function serveEditor({ input, output, environment, texts }: Surroundings): Promise<number> {
  const { createConnection, StreamMessageReader, StreamMessageWriter } = await import('vscode-languageserver/node');
  const connection = createConnection(new StreamMessageReader(input), new StreamMessageWriter(output));
  const desk = new Desk(environment, texts);
  let watches = false;
  connection.onInitialize(({ capabilities, initializationOptions }) => {
    desk.projects.buffers.encoding = encodingOf(capabilities);
    watches = capabilities.workspace?.didChangeWatchedFiles?.dynamicRegistration === true;
    readSettings(desk, initializationOptions);
    return {
      capabilities: capabilitiesOf(desk.projects.buffers.encoding),
      serverInfo: { name: 'batharon', version: VERSION },
    };
  });
  connection.onInitialized(() => {
    if (watches)
      void connection.client.register(
        { method: 'workspace/didChangeWatchedFiles' } as never,
        {
          watchers: WATCHED.map((globPattern) => ({ globPattern })),
        } as never,
      );
  });
  for (const { register } of features) register(connection, desk);
  followFiles(connection, desk);
  let isDown = false;
  connection.onShutdown(() => void (isDown = true));
  const status = await new Promise<number>((resolve) => {
    connection.onExit(() => resolve(isDown ? 0 : 1));
    input.once('end', () => resolve(isDown ? 0 : 1));
    connection.listen();
  });
  await desk.checker.end();
  return status;
}

/** Columns are counted as the editor prefers it. */
function encodingOf({ general }: ClientCapabilities): Encoding {
  const known = (general?.positionEncodings ?? []).find((each) => each === 'utf-8' || each === 'utf-16');
  return (known as Encoding | undefined) ?? 'utf-16';
}

function capabilitiesOf(positionEncoding: Encoding): ServerCapabilities {
  const own: ServerCapabilities = { positionEncoding, textDocumentSync: { openClose: true, change: 2, save: true } };
  return Object.assign(own, ...features.map(({ capabilities }) => capabilities));
}

function readSettings(desk: Desk, settings: unknown): void {
  const { recordedValues } = (settings ?? {}) as { recordedValues?: unknown };
  if (typeof recordedValues === 'boolean') desk.projects.showsRecorded = recordedValues;
}

/** Keeps the desk as the editor and the disk have it. */
function followFiles(connection: Connection, desk: Desk): void {
  const { buffers } = desk.projects;
  connection.onDidOpenTextDocument(({ textDocument: { uri, version, text } }) => {
    desk.typed(buffers.set(uri, version, text));
  });
  connection.onDidChangeTextDocument(({ textDocument: { uri, version }, contentChanges }) => {
    const buffer = buffers.change(uri, version, contentChanges);
    if (buffer) desk.typed(buffer);
  });
  connection.onDidSaveTextDocument(({ textDocument: { uri } }) => desk.changed(fileOf(uri)));
  connection.onDidCloseTextDocument(({ textDocument: { uri } }) => {
    desk.closed(fileOf(uri));
    void connection.sendDiagnostics({ uri, diagnostics: [] });
  });
  connection.onDidChangeWatchedFiles(({ changes }) => {
    for (const { uri } of changes) desk.changed(fileOf(uri));
  });
  connection.onDidChangeConfiguration(({ settings }) =>
    readSettings(desk, (settings as { batharon?: unknown } | null)?.batharon),
  );
}
