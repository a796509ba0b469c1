/** Methods that may be sent again without asking (RFC 9110 section 9.2.2). */
const IDEMPOTENT: ReadonlySet<string> = new Set(['GET', 'HEAD', 'OPTIONS', 'TRACE', 'PUT', 'DELETE']);
const CHANGING: ReadonlySet<string> = new Set(['POST', 'PUT', 'PATCH', 'DELETE']);

export function isRepeatable(method: string): boolean {
  return IDEMPOTENT.has(method);
}

/** Whether it only reads (RFC 9110 section 9.2.1). */
export function isSafe(method: string): boolean {
  return method === 'GET' || method === 'HEAD' || method === 'OPTIONS';
}

/** Whether a request of this method asks the server to change something. */
export function isChanging(method: string): boolean {
  return CHANGING.has(method);
}
