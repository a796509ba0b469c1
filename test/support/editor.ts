import { spawn, type ChildProcess } from 'node:child_process';
import { readFileSync } from 'node:fs';
import path from 'node:path';
import { pathToFileURL } from 'node:url';
import {
  createMessageConnection,
  StreamMessageReader,
  StreamMessageWriter,
  type MessageConnection,
} from 'vscode-jsonrpc/node';
import { PROGRAM, type Folder } from './program.ts';

type Position = { line: number; character: number };
type Diagnostic = { code: string; message: string; range: { start: Position; end: Position }; severity: number };
type Published = { uri: string; version?: number; diagnostics: Diagnostic[] };

/** An editor without a screen: the protocol spoken with the built program. */
export class Editor {
  private readonly child: ChildProcess;
  readonly connection: MessageConnection;
  readonly shown: string[] = [];
  readonly published: Published[] = [];
  private listeners: (() => void)[] = [];
  private version = 1;

  constructor(private readonly folder: Folder) {
    this.child = spawn(process.execPath, [PROGRAM, 'language-server', '--stdio'], {
      cwd: folder.path,
      env: { PATH: process.env['PATH'] },
    });
    this.connection = createMessageConnection(
      new StreamMessageReader(this.child.stdout!),
      new StreamMessageWriter(this.child.stdin!),
    );
    this.connection.onNotification('textDocument/publishDiagnostics', (params: Published) => {
      this.published.push(params);
      for (const listener of this.listeners) listener();
    });
    this.connection.onNotification('window/showMessage', ({ message }: { message: string }) => {
      this.shown.push(message);
    });
    this.connection.listen();
  }

  async start(
    options: { encodings?: string[]; settings?: object } = {},
  ): Promise<{ capabilities: Record<string, never> }> {
    const started = await this.connection.sendRequest<{ capabilities: Record<string, never> }>('initialize', {
      processId: process.pid,
      rootUri: pathToFileURL(this.folder.path).href,
      capabilities: { general: { positionEncodings: options.encodings } },
      initializationOptions: options.settings,
    });
    await this.connection.sendNotification('initialized', {});
    return started;
  }

  get pid(): number {
    return this.child.pid!;
  }

  uri(name: string): string {
    return pathToFileURL(path.join(this.folder.path, name)).href;
  }

  /** Opens a file as it is on the disk, or with another text that nobody saved. */
  open(name: string, text = readFileSync(path.join(this.folder.path, name), 'utf8')): Promise<void> {
    return this.connection.sendNotification('textDocument/didOpen', {
      textDocument: { uri: this.uri(name), languageId: 'yaml', version: this.version, text },
    });
  }

  change(name: string, changes: readonly object[]): Promise<void> {
    const textDocument = { uri: this.uri(name), version: ++this.version };
    return this.connection.sendNotification('textDocument/didChange', { textDocument, contentChanges: changes });
  }

  /** Asks for something at a place of a file: before the sign `|` of a text that stands in it. */
  at<T>(method: string, name: string, text: string, marked: string, more: object = {}): Promise<T> {
    const params = { textDocument: { uri: this.uri(name) }, position: placeOf(text, marked), ...more };
    return this.connection.sendRequest<T>(`textDocument/${method}`, params);
  }

  of<T>(method: string, name: string, more: object = {}): Promise<T> {
    return this.connection.sendRequest<T>(`textDocument/${method}`, { textDocument: { uri: this.uri(name) }, ...more });
  }

  /** The next diagnostics of a file that fit. */
  async diagnostics(name: string, fits: (found: readonly Diagnostic[]) => boolean): Promise<readonly Diagnostic[]> {
    for (;;) {
      const last = this.published.filter(({ uri }) => uri === this.uri(name)).at(-1);
      if (last && fits(last.diagnostics)) return last.diagnostics;
      await new Promise<void>((resolve) => this.listeners.push(resolve));
    }
  }

  /** Ends the server as the protocol says; gives its exit status. */
  async end(): Promise<number | null> {
    const ended = new Promise<number | null>((resolve) => this.child.once('exit', resolve));
    await this.connection.sendRequest('shutdown');
    await this.connection.sendNotification('exit');
    const status = await ended;
    this.connection.dispose();
    return status;
  }

  kill(): void {
    this.child.kill('SIGKILL');
  }
}

/** The position of `|` in a part of a text: `request: GET /vessels/{due|`. */
export function placeOf(text: string, marked: string): Position {
  const [before, behind] = marked.split('|') as [string, string];
  const start = text.indexOf(before + behind);
  if (start < 0) throw new Error(`${marked} is not in the text`);
  const lines = text.slice(0, start + before.length).split('\n');
  return { line: lines.length - 1, character: lines.at(-1)!.length };
}
