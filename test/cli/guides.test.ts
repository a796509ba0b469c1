import { readFileSync } from 'node:fs';
import path from 'node:path';
import { useDemo } from '../support/harbour.ts';

const demo = useDemo();
const GUIDES = ['many-requests', 'waiting', 'resuming', 'api-descriptions'];

/** Words of a command line; what is in double quotes is one. */
const words = (line: string) => [...line.matchAll(/"([^"]*)"|(\S+)/g)].map(([, quoted, plain]) => quoted ?? plain!);

/** A guide is done as it stands: its chains are written, its commands typed one after another, in the demo's project. */
test.each(GUIDES)(
  'the guide %s',
  async (name) => {
    const text = readFileSync(path.join(__dirname, `../../docs/${name}.md`), 'utf8');
    const folder = demo();
    let typed = 0;
    for (const [, kind, block = ''] of text.matchAll(/^```(yaml|console)\n(.*?)^```$/gms)) {
      const file = /^# (\S+\.yaml)\n/.exec(block)?.[1];
      if (kind === 'yaml' && file !== undefined) folder.write(file, block);
      for (const [, line = ''] of kind === 'console' ? block.matchAll(/^\$ batharon (.*)$/gm) : []) {
        const [command = '', status = '0'] = line.split(/\s+# ends with /);
        const run = await folder.run(words(command));
        expect([command, run.status, run.status === Number(status) ? '' : run.all]).toEqual([
          command,
          Number(status),
          '',
        ]);
        typed++;
      }
    }
    expect(typed).toBeGreaterThan(2);
  },
  60_000,
);
