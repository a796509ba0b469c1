import { Option, type Command } from 'commander';
import { several } from './definition.ts';

/** What every command says of a chain's inputs and of where its apis are, in one wording. */
export function chainOptions(sub: Command): Command {
  return sub
    .optionsGroup('Inputs and deployment')
    .option('--input <name=value>', 'input of the chain (repeatable)', several, [])
    .option('--inputs-from <file>', 'read inputs from a YAML or JSON file')
    .option('--at <deployment>', 'deployment to use: live, or harbour=live for one API (repeatable)', several, [])
    .option('--setting <name=value>', 'setting of the APIs, or API.NAME=VALUE of one (repeatable)', several, []);
}

export type Form = 'text' | 'json';

/** The form of what a command that reads puts out: text for people, JSON for programs, and what else it knows. */
export function formOption(sub: Command, ...further: readonly string[]): Command {
  return sub.addOption(
    new Option('--as <form>', 'output format').choices(['text', 'json', ...further]).default('text'),
  );
}
