import { Argument, type Command } from 'commander';
import { bothSchemas, fileSchema, SCHEMA_KINDS, type SchemaKind } from '../../core/reference/schemas.ts';
import type { ExitStatus, Io } from '../io.ts';
import { examples, type CommandModule } from './definition.ts';

/** `editor-schema [KIND]`: the JSON Schema of the files, for editors. */
export const command: CommandModule = {
  define: (sub: Command, run) => {
    sub
      .addArgument(new Argument('[file]', 'kind of file (default: one schema for both)').choices(SCHEMA_KINDS))
      .action((kind: SchemaKind | undefined) => run((io) => Promise.resolve(execute(kind, io))));
    examples(sub, 'batharon editor-schema chain > schemas/chain.schema.json', 'batharon editor-schema project');
  },
};

function execute(kind: SchemaKind | undefined, io: Io): ExitStatus {
  io.exit.out(`${JSON.stringify(kind === undefined ? bothSchemas() : fileSchema(kind), null, 2)}\n`);
  return 0;
}
