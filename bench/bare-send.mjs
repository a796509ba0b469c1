// The floor of a single request: bare undici.
import { Pool } from 'undici';

const pool = new Pool(process.argv[2], { connections: 1 });
const { body } = await pool.request({ method: 'GET', path: '/vessels/1', headers: { accept: '*/*' } });
console.log(await body.text());
await pool.close();
