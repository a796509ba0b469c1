// The floor: the same requests with undici alone, each response parsed, the next request made from it.
import { Pool } from 'undici';
import { get } from './bare-get.mjs';

const [url, calls] = process.argv.slice(2);
const pool = new Pool(url, { connections: 1 });
let number = 0;
for (let i = 0; i < Number(calls); i++) {
  const { body } = await get(pool, { path: `/vessels/${number}`, headers: { accept: '*/*' } });
  number = JSON.parse(await body.text()).next;
}
await pool.close();
