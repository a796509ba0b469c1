// The core by itself, bundled as the program has it.
import { build } from 'esbuild';
import { mkdtempSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { fileURLToPath, pathToFileURL } from 'node:url';

const root = path.resolve(path.dirname(fileURLToPath(import.meta.url)), '..');

export async function loadCore() {
  const outfile = path.join(mkdtempSync(path.join(tmpdir(), 'batharon-bench-')), 'core.cjs');
  const contents = `
    export { parsePath, parseExpression } from ${JSON.stringify(path.join(root, 'src/core/expression/parse.ts'))};
    export { compile } from ${JSON.stringify(path.join(root, 'src/core/expression/compile.ts'))};
    export { takeSlots, RateLimiter } from ${JSON.stringify(path.join(root, 'src/core/pacing/rate-limiter.ts'))};
    export { rateLimitOf, readRateLimit, MIDNIGHT_UTC } from ${JSON.stringify(path.join(root, 'src/core/pacing/rate-limit.ts'))};
    export { limiterFiles } from ${JSON.stringify(path.join(root, 'src/adapters/limiter-files.ts'))};
    export { LockedLimiters } from ${JSON.stringify(path.join(root, 'src/core/pacing/locked-limiters.ts'))};
    export { RedisLimiters } from ${JSON.stringify(path.join(root, 'src/adapters/redis/redis-limiters.ts'))};
    export { systemClock } from ${JSON.stringify(path.join(root, 'src/adapters/clock.ts'))};
    export { LineReader, FORM } from ${JSON.stringify(path.join(root, 'src/core/journal/line-reader.ts'))};
    export { RunView } from ${JSON.stringify(path.join(root, 'src/cli/view/run-view.ts'))};
    export { paletteOf } from ${JSON.stringify(path.join(root, 'src/cli/view/palette.ts'))};
    export { Contract } from ${JSON.stringify(path.join(root, 'src/core/contract/contract.ts'))};
    export { readDescription } from ${JSON.stringify(path.join(root, 'src/core/contract/description.ts'))};
    export { departuresOf } from ${JSON.stringify(path.join(root, 'src/core/contract/judge-response.ts'))};
    export { closedSchema } from ${JSON.stringify(path.join(root, 'src/core/contract/schema-closure.ts'))};
    export { createValidator } from ${JSON.stringify(path.join(root, 'src/core/json-schema-packages.ts'))};
    export { frameOf } from ${JSON.stringify(path.join(root, 'src/core/expression/frame.ts'))};`;
  await build({
    stdin: { contents, resolveDir: root },
    outfile,
    bundle: true,
    format: 'cjs',
    platform: 'node',
    logLevel: 'error',
  });
  return import(pathToFileURL(outfile).href);
}
