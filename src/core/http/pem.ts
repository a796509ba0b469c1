/** What a PEM file (RFC 7468) must have in it to be of use. */
const LABELS = {
  ca: { label: /-----BEGIN (?:TRUSTED |X509 )?CERTIFICATE-----/, what: 'a certificate' },
  cert: { label: /-----BEGIN (?:TRUSTED |X509 )?CERTIFICATE-----/, what: 'a certificate' },
  key: { label: /-----BEGIN (?:[A-Z]+ )?PRIVATE KEY-----/, what: 'a private key' },
} as const;

/** What is wrong with a file under `tls`, as far as its text tells. */
export function pemProblem(key: keyof typeof LABELS, name: string, bytes: Uint8Array): string | undefined {
  const { label, what } = LABELS[key];
  return label.test(new TextDecoder().decode(bytes)) ? undefined : `${name} holds no PEM text of ${what} (RFC 7468)`;
}
