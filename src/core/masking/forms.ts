/** A text that gives a secret away, and what stands for it. */
export type Form = Readonly<{ text: string; name: string }>;

/**
 * Every form in which a secret may leave: as it is, percent-encoded, inside JSON, XML and CSV, in base64 wherever it begins,
 * in hexadecimal, as bytes. Longest first, so that the form that says most is masked as a whole.
 */
export function formsOf(name: string, secret: string): readonly Form[] {
  const bytes = new TextEncoder().encode(secret);
  const texts = [
    secret,
    ...percentForms(secret, bytes),
    ...jsonForms(secret),
    secret.replace(/[&<>"']/g, (sign) => XML[sign]!),
    // As messages quote a text.
    secret.replaceAll("'", "\\'"),
    // Inside a quoted cell of CSV.
    secret.replaceAll('"', '""'),
    // UTF-8 in a header, whose bytes are read as Latin-1.
    String.fromCharCode(...bytes),
    ...base64Forms(bytes),
    hex(bytes),
    hex(bytes).toUpperCase(),
  ];
  const distinct = [...new Set(texts)].filter((text) => text.length >= Math.min(secret.length, 6));
  return distinct.sort((a, b) => b.length - a.length).map((text) => ({ text, name }));
}

const XML: Readonly<Record<string, string>> = { '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;', "'": '&apos;' };

/** RFC 3986 and form encoding, and every byte encoded; hexadecimal digits in both cases. */
function percentForms(secret: string, bytes: Uint8Array): readonly string[] {
  const strict = percent(bytes, /[A-Za-z0-9\-._~]/);
  const lenient = encodeURIComponent(secret.toWellFormed());
  const form = percent(bytes, /[A-Za-z0-9\-._*]/).replaceAll('%20', '+');
  const every = percent(bytes, /(?!)/);
  return [strict, lenient, form, every].flatMap((text) => [text, lowerHex(text)]);
}

function percent(bytes: Uint8Array, keeps: RegExp): string {
  return [...bytes]
    .map((byte) => {
      const character = String.fromCharCode(byte);
      return byte < 128 && keeps.test(character) ? character : `%${byte.toString(16).toUpperCase().padStart(2, '0')}`;
    })
    .join('');
}

function lowerHex(text: string): string {
  return text.replace(/%[0-9A-F]{2}/g, (code) => code.toLowerCase());
}

/** Escaped as short as possible, with non-ASCII as `\uXXXX` in both cases, and with `\/`. */
function jsonForms(secret: string): readonly string[] {
  const short = JSON.stringify(secret).slice(1, -1);
  const ascii = (upper: boolean) =>
    short.replace(/[\u007f-\uffff]/g, (character) => {
      const code = character.charCodeAt(0).toString(16).padStart(4, '0');
      return `\\u${upper ? code.toUpperCase() : code}`;
    });
  const forms = [short, ascii(false), ascii(true)];
  const once = [...forms, ...forms.map((form) => form.replaceAll('/', '\\/'))];
  // JSON in a text of JSON, as servers say back what they were sent.
  return [...once, ...once.map((form) => JSON.stringify(form).slice(1, -1))];
}

/** base64 and base64url at the three alignments, without the characters that depend on what stands beside the secret. */
function base64Forms(bytes: Uint8Array): readonly string[] {
  return [0, 1, 2].flatMap((lead) => {
    const padded = new Uint8Array(lead + bytes.length);
    padded.set(bytes, lead);
    const whole = btoa(String.fromCharCode(...padded)).replace(/=+$/, '');
    const first = lead === 0 ? 0 : lead + 1;
    const last = padded.length % 3 === 0 ? whole.length : whole.length - 1;
    const text = whole.slice(first, last);
    const url = text.replaceAll('+', '-').replaceAll('/', '_');
    return [text, url];
  });
}

function hex(bytes: Uint8Array): string {
  return [...bytes].map((byte) => byte.toString(16).padStart(2, '0')).join('');
}
