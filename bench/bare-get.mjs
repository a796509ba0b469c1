/**
 * A GET of undici alone, sent again where the server had closed the connection while it was idle: a floor must not fail
 * because the machine paused for as long as a connection is kept.
 */
export async function get(pool, options) {
  const request = { ...options, method: 'GET' };
  try {
    return await pool.request(request);
  } catch (error) {
    if (!['UND_ERR_SOCKET', 'ECONNRESET', 'EPIPE'].includes(error.code)) throw error;
    return pool.request(request);
  }
}
