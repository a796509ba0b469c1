/** Media types by the end of a file's name: those that APIs are sent most. */
const BY_EXTENSION: Readonly<Record<string, string>> = {
  avif: 'image/avif',
  bin: 'application/octet-stream',
  csv: 'text/csv',
  gif: 'image/gif',
  gz: 'application/gzip',
  html: 'text/html',
  jpeg: 'image/jpeg',
  jpg: 'image/jpeg',
  json: 'application/json',
  md: 'text/markdown',
  mp4: 'video/mp4',
  ndjson: 'application/x-ndjson',
  pdf: 'application/pdf',
  png: 'image/png',
  svg: 'image/svg+xml',
  txt: 'text/plain',
  webp: 'image/webp',
  xml: 'application/xml',
  yaml: 'application/yaml',
  yml: 'application/yaml',
  zip: 'application/zip',
};

/** The media type that a file's name stands for; any other is bytes of no known meaning (RFC 2046 section 4.5.1). */
export function mediaTypeOfFile(name: string): string {
  const extension = /\.([A-Za-z0-9]+)$/.exec(name)?.[1]?.toLowerCase() ?? '';
  return Object.hasOwn(BY_EXTENSION, extension) ? BY_EXTENSION[extension]! : 'application/octet-stream';
}

/** Whether a media type is JSON, or of a syntax that is (RFC 6839 section 3.1). */
export function isJsonType(type: string): boolean {
  return /[/+]json\b/i.test(type);
}
