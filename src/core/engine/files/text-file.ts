import { decodeText, encodeText, PLAIN_TEXT, textFormOf, type TextForm } from '../../http/charset.ts';
import type { RowsFile, RowsWriting } from '../../ports.ts';
import { RowFault } from './row-fault.ts';

/** Bytes at the beginning of a file from which its layout is told. */
const START_BYTES = 64 * 1024;

/** A file of rows as text: what is put into it goes there in the charset that it has, its byte-order mark stays. */
export class TextFile {
  private form: TextForm;

  constructor(
    private readonly file: RowsFile,
    private readonly reveal: boolean,
    /** The charset that the chain names for its tables: that of a file that is no UTF-8. */
    private readonly charset: string | undefined,
    /** That of a new file. */
    fresh?: string,
  ) {
    this.form = (fresh === undefined ? undefined : textFormOf(new Uint8Array(), fresh)) ?? PLAIN_TEXT;
  }

  /** All of its text; empty when it is not there. Throws `RowFault`. */
  read(): string {
    return this.decoded(this.file.read() ?? new Uint8Array());
  }

  /** Its text up to the end of a line that is within its first bytes. */
  readStart(): string {
    const bytes = this.file.read(0, START_BYTES) ?? new Uint8Array();
    const end = bytes.length < START_BYTES ? bytes.length : bytes.lastIndexOf(10) + 1;
    return this.decoded(bytes.subarray(0, end === 0 ? bytes.length : end));
  }

  /** Whether its last line has no end. */
  isTorn(): boolean {
    const size = this.file.size();
    const width = this.form.charset.startsWith('utf-16') ? 2 : 1;
    return size > 0 && !this.file.read(size - width, size)!.includes(10);
  }

  append(text: string): void {
    this.file.append(text, this.writing(false));
  }

  replace(text: string): void {
    this.file.replace(text, this.writing(true));
  }

  private writing(isStart: boolean): RowsWriting {
    const encode = (text: string): string | Uint8Array => {
      const encoded = encodeText(text, this.form, isStart);
      if ('bytes' in encoded) return encoded.bytes;
      const message = `${this.file.path} has the charset ${this.form.charset}, which has no "${encoded.strange}"`;
      throw new RowFault('invalid-value', message, 'Write to another file: new files are UTF-8.');
    };
    return { reveal: this.reveal, encode };
  }

  private decoded(bytes: Uint8Array): string {
    for (const label of new Set([undefined, this.charset])) {
      const decoded = decodeText(bytes, label);
      if (decoded.text === undefined) continue;
      this.form = textFormOf(bytes, label)!;
      return decoded.text;
    }
    const message = `${this.file.path} is not UTF-8 and was not changed`;
    throw new RowFault('not-decodable', message, 'Set charset of the table, or write to another file.');
  }
}
