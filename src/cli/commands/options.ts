import type { Command } from 'commander';
import { several } from './definition.ts';

/** What every command says of a chain's inputs and of where its apis are, in one wording. */
export function chainOptions(sub: Command): Command {
  return sub
    .option('--take <name=value>', 'an input of the chain (may be given again)', several, [])
    .option('--take-from <file>', 'inputs from a YAML or JSON file')
    .option('--no-input', 'never ask; what is missing is an error')
    .option('--at <deployment>', 'where the apis run: live, or harbour=live for one api', several, []);
}
