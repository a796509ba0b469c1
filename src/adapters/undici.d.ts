/** Only the dispatchers of undici are bundled; its published types describe the whole package. */
declare module 'undici/lib/dispatcher/pool.js' {
  import type { Pool } from 'undici';
  const pool: typeof Pool;
  export default pool;
}

declare module 'undici/lib/core/connect.js' {
  import type { buildConnector } from 'undici';
  const build: typeof buildConnector;
  export default build;
}

declare module 'undici/lib/dispatcher/proxy-agent.js' {
  import type { ProxyAgent } from 'undici';
  const agent: typeof ProxyAgent;
  export default agent;
}

declare module 'undici/lib/api/api-connect.js' {
  import type { Dispatcher } from 'undici';
  const connect: Dispatcher['connect'];
  export default connect;
}
