// The floor: the same requests with undici alone, as many at a time, each response parsed.
import { Pool } from 'undici';
import { get } from './bare-get.mjs';

const [target, key, calls, atOnce] = process.argv.slice(2);
const { origin, pathname } = new URL(target);
const pool = new Pool(origin, { connections: Number(atOnce) });
const headers = { accept: '*/*', 'harbour-key': key };
let next = 0;
await Promise.all(
  Array.from({ length: Number(atOnce) }, async () => {
    while (next < Number(calls)) {
      const { body } = await get(pool, { path: `${pathname}?row=${next++}`, headers });
      if (JSON.parse(await body.text()).level_cm !== 142) throw new Error('another level');
    }
  }),
);
await pool.close();
