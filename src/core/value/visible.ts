/** C0, DEL and C1, but for tabs and line breaks, and what turns the direction of writing. */
const HIDDEN = /[\u0000-\u0008\u000b-\u001f\u007f-\u009f\u061c\u200e\u200f\u202a-\u202e\u2066-\u2069]/g;
/** The same without C0, which JSON escapes by itself. */
const HIDDEN_IN_JSON = /[\u007f-\u009f\u061c\u200e\u200f\u202a-\u202e\u2066-\u2069]/g;

/**
 * Control characters made visible, so that nothing a server sends can move the cursor, set a title or hide text:
 * C0 and C1 as their pictures or codes, and the characters that turn the direction of writing.
 */
export function visible(text: string): string {
  return text.replace(HIDDEN, (character) => {
    const code = character.charCodeAt(0);
    if (code < 0x20) return String.fromCharCode(0x2400 + code);
    return `<U+${code.toString(16).toUpperCase().padStart(4, '0')}>`;
  });
}

/** A text of JSON that says the same, with those characters escaped as JSON does it. */
export function visibleJson(json: string): string {
  return json.replace(HIDDEN_IN_JSON, (character) => `\\u${character.charCodeAt(0).toString(16).padStart(4, '0')}`);
}

/** The same of a report in some format: line breaks of both kinds stay, and JSON stays what it says. */
export function visibleReport(text: string, isJson: boolean): string {
  return isJson ? visibleJson(text) : text.split('\r\n').map(visible).join('\r\n');
}
