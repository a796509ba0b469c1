import type { Contract } from '../contract/contract.ts';
import type { DescriptionProblem } from '../contract/description.ts';
import type { EndpointOf } from '../chain/endpoints.ts';
import type { Chain } from '../chain/model.ts';
import type { Project } from '../chain/project-file.ts';
import type { LastRun } from './recorded.ts';

/** What is around a file that is being written. Paths are relative to the folder of that file. */
export type FileSurroundings = Readonly<{
  project: Project | undefined;
  endpointOf: EndpointOf;
  contractOf(file: string): Contract | DescriptionProblem;
  /** Names of secrets that the project knows; never their values. */
  secretNames(): readonly string[];
  /** Chain files of the project, and all files of it. */
  chainFiles(): readonly string[];
  files(): readonly string[];
  /** The chain in a file, as it is now in the editor or on the disk. */
  chainAt(file: string): Chain | undefined;
  /** The last run of this chain; nothing where none is recorded, or recorded values are not to be shown. */
  lastRun(): LastRun | undefined;
}>;
