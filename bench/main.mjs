// npm run bench: every speed that the project promises, as a ratio against a floor measured in the same run.
import { allKept, writePerformance } from './measure.mjs';
import { measureGrowth } from './growth.mjs';
import { measureCalls } from './calls.mjs';
import { measureCheck } from './check.mjs';
import { measureContracts } from './contracts.mjs';
import { measureDrafts } from './drafts.mjs';
import { measureEditor, measurePictures } from './editor.mjs';
import { measureFiles } from './files.mjs';
import { measureFleet } from './fleet.mjs';
import { measureFilter } from './filter.mjs';
import { measureFind } from './find.mjs';
import { measureHistories } from './histories.mjs';
import { measureJournal } from './journal.mjs';
import { measurePaths } from './paths.mjs';
import { measureRows } from './rows.mjs';
import { measureSlots } from './slots.mjs';
import { measureSend, measureStart } from './start.mjs';
import { measureTransfers } from './transfers.mjs';

measureStart();
await measureSend();
await measureCheck();
await measureContracts();
await measureCalls();
await measureJournal();
await measureFilter();
measureFind();
measureDrafts();
await measureSlots();
await measureFleet();
await measurePaths();
await measureFiles();
await measureRows();
await measureTransfers();
await measureHistories();
await measureEditor();
await measurePictures();
await measureGrowth();
writePerformance();
if (!allKept()) {
  console.log('a bar is not kept');
  process.exitCode = 1;
}
