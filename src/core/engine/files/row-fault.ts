/** Thrown for rows that a file cannot take, and for a file that is left as it is because it cannot be read whole. */
export class RowFault extends Error {
  constructor(
    readonly code:
      'no-such-column' | 'invalid-value' | 'not-an-array' | 'not-decodable' | 'over-limit' | 'written-file-changed',
    message: string,
    readonly advice?: string,
  ) {
    super(message);
  }
}
