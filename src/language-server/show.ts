import type { Connection } from 'vscode-languageserver/node';

/** Types of messages as the protocol numbers them (LSP 3.17, MessageType). */
const TYPES = { warning: 2, info: 3 } as const;

/** Shows a text in the editor. Nothing is awaited: not every editor answers. */
export function show(connection: Connection, type: keyof typeof TYPES, message: string): void {
  void connection.sendNotification('window/showMessage', { type: TYPES[type], message });
}
