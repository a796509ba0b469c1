// The floor of reading a record: its lines, one by one.
import { createReadStream } from 'node:fs';
import { createInterface } from 'node:readline';

let characters = 0;
const lines = createInterface({ input: createReadStream(process.argv[2]) });
lines.on('line', (line) => (characters += line.length));
lines.on('close', () => console.log(characters));
