// undici alone: so many requests, some at the same time.
import { Pool } from 'undici';

const [url, count, concurrency] = [process.argv[2], Number(process.argv[3]), Number(process.argv[4])];
const pool = new Pool(url, { connections: concurrency });
let next = 0;
const worker = async () => {
  while (next < count) {
    const { body } = await pool.request({ path: `/vessels/${next++}`, method: 'GET' });
    await body.json();
  }
};
await Promise.all(Array.from({ length: concurrency }, worker));
await pool.close();
