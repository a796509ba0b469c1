// As module.mts, for a CommonJS module: `require` and the declarations must agree on what the package is.
import batharon = require('batharon');

const project = batharon.loadProject('.');
const chain: batharon.LoadedChainFile = project.chain('chains/berth.chain.yaml', []);
export const run: Promise<batharon.LibraryRun> = batharon.runLoaded(chain);
// @ts-expect-error -- there is no such function
batharon.loadEverything();
