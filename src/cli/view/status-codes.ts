/** Reason phrases for responses that come without one (RFC 9110 section 15). */
export { STATUS_CODES } from 'node:http';
