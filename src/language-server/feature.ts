import type { Connection, ServerCapabilities } from 'vscode-languageserver/node';
import type { Desk } from './desk.ts';

/** One thing that the server does for an editor: a file in `features/` and a line in its list. */
export type Feature = Readonly<{
  /** What it tells the editor of itself (LSP 3.17, ServerCapabilities). */
  capabilities: ServerCapabilities;
  register(connection: Connection, desk: Desk): void;
}>;
