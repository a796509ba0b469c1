import type { Phase } from '../core/http/message.ts';
import { counted } from '../core/value/show.ts';

const CAUSES: Readonly<Record<string, string>> = {
  ECONNREFUSED: 'Nothing is listening there: the connection was refused',
  ENOENT: 'There is no socket at the path under unix',
  EACCES: 'This user may not connect there',
  ENOTFOUND: 'The host name was not found',
  EAI_AGAIN: 'The host name could not be looked up just now',
  ECONNRESET: 'The connection was reset',
  ETIMEDOUT: 'The connection timed out: the network did not answer',
  EHOSTUNREACH: 'The host cannot be reached',
  ENETUNREACH: 'The network cannot be reached',
  CERT_HAS_EXPIRED: 'The certificate of the server has expired',
  DEPTH_ZERO_SELF_SIGNED_CERT: 'The certificate of the server is self-signed',
  SELF_SIGNED_CERT_IN_CHAIN: 'A certificate in the chain of the server is self-signed',
  UNABLE_TO_VERIFY_LEAF_SIGNATURE: 'The certificate of the server is signed by an authority that is not trusted here',
  ERR_TLS_CERT_ALTNAME_INVALID: 'The certificate of the server is for another host name',
  UND_ERR_HEADERS_OVERFLOW: 'The response headers exceed 64 KiB',
};

/** Of a certificate for another host name: which names it has. */
function namesOfCertificate(error: Error): string {
  const { cert } = ([error, error.cause].find((each) => each && Object.hasOwn(each, 'cert')) ?? {}) as CertificateError;
  const names = cert?.subjectaltname ?? cert?.subject?.CN;
  return names === undefined ? '' : `: it has ${names}`;
}

type CertificateError = Readonly<{ cert?: { subjectaltname?: string; subject?: { CN?: string } } }>;

/** Why there was no response, in words. */
export function connectionWords(error: Error, phase: Phase, received: number): string {
  const cause = (error as { cause?: NodeJS.ErrnoException }).cause;
  const first = error instanceof AggregateError ? (error.errors[0] as NodeJS.ErrnoException) : undefined;
  const code = [(error as NodeJS.ErrnoException).code, first?.code, cause?.code].find(
    (each) => each !== undefined && CAUSES[each],
  );
  const where = phase === 'body' ? `, in the middle of the body, after ${counted(received, 'byte')}` : '';
  if (code !== undefined) return CAUSES[code]! + namesOfCertificate(error) + where;
  const name = (error as NodeJS.ErrnoException).code ?? '';
  if (error.name === 'HTTPParserError') return `The reply is not an HTTP response: ${error.message}`;
  if (name === 'UND_ERR_SOCKET')
    return phase === 'body'
      ? `The connection was closed${where}`
      : 'The connection was closed before a response arrived';
  if (/content-length/i.test(error.message)) return `The length of the body differs from its Content-Length${where}`;
  return error.message;
}
