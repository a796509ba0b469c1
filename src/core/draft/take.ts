import { textOfBase64 } from '../value/base64.ts';
import { hasSecretShape } from '../chain/looks-like-secret.ts';
import { isSecretName, type NamePlace } from '../chain/secret-words.ts';
import type { Value } from '../value/value.ts';
import { percentDecoded } from '../value/percent.ts';
import { documentedIn, inputName, nameBehind } from '../template/documentation.ts';
import { faithfulJson, withScalars } from './json-text.ts';
import type { Link, Links } from './links.ts';
import { holdsMarks, mark } from './marks.ts';
import type { DraftBody, DraftRequest } from './request.ts';
import type { SecretBook } from './secret-book.ts';

/** A value that a call needs: what it is called, and its default where the sample says one. */
export type DraftInput = Readonly<{
  name: string;
  type: 'string' | 'date' | 'integer' | 'number' | 'boolean';
  default: string | undefined;
  choices?: readonly string[];
  about?: string | undefined;
}>;

/** A credential in a header or a parameter of a request. */
export type Credential = Readonly<{
  place: 'header' | 'query';
  name: string;
  /** The whole value, with a mark where the secret stood. */
  value: string;
  /** Whether an earlier response gave it, so that it is the call's own. */
  isLinked: boolean;
}>;

/** A request in which marks stand for secrets, for values of earlier responses, and for inputs. */
export type TakenRequest = Readonly<{
  request: DraftRequest;
  /** The body as a value with marks, where it is JSON that can be written again. */
  json: Value | undefined;
  credentials: readonly Credential[];
  /** User and password of basic authentication; the password is a mark. */
  basic: Readonly<{ user: string; password: string; isLinked: boolean }> | undefined;
}>;

/** Takes requests apart: what is a secret, what an earlier response gave, what documentation leaves open. */
export class Taker {
  readonly inputs = new Map<string, DraftInput>();
  /** What was taken for what, a line each. */
  readonly report = new Set<string>();

  constructor(
    readonly secrets: SecretBook,
    private readonly links: Links,
    private readonly cookiesOf: (name: string, value: string) => boolean,
    /** Whether days in parameters become inputs. */
    private readonly takesDays = true,
  ) {}

  take(request: DraftRequest, api: string): TakenRequest {
    const { headers, credentials, basic = request.basic } = this.headers(request, api);
    const query = request.query.map(([name, value]): readonly [string, string] => {
      if (!this.isSecret(name, value, 'parameter')) return [name, this.parameter(name, value, api)];
      const credential = this.credential('query', name, value, api);
      credentials.push(credential);
      if (request.query.at(-1)?.[0] !== name) this.report.add(`the parameter ${name} is sent behind the others`);
      return [name, credential.value];
    });
    const json = request.body?.kind === 'json' ? faithfulJson(request.body.text) : undefined;
    const body = request.body && this.body(request.body, json, api);
    return {
      request: { ...request, url: this.path(request.url, api), query, headers, body, basic: undefined },
      json: json === undefined ? undefined : this.json(json, api),
      credentials,
      basic: basic === undefined ? undefined : this.basic(basic, api),
    };
  }

  /** The headers of a request that stay its own, and the credentials among them. */
  private headers(request: DraftRequest, api: string) {
    const headers: (readonly [string, string])[] = [];
    const credentials: Credential[] = [];
    let basic: string | undefined;
    for (const [name, value] of request.headers) {
      const decoded = basicIn(name, value);
      if (decoded !== undefined) basic = decoded;
      else if (name.toLowerCase() === 'cookie') headers.push(...this.cookie(name, value, api));
      else if (this.isSecret(name, value, 'header')) credentials.push(this.credential('header', name, value, api));
      else headers.push([name, this.text(value, name, 'header', api)]);
    }
    return { headers, credentials, ...(basic === undefined ? {} : { basic }) };
  }

  private isSecret(name: string, value: string, place: NamePlace): boolean {
    return isSecretName(name, value, place) || hasSecretShape(value) || this.secrets.nameOf(value) !== undefined;
  }

  private basic(text: string, api: string): NonNullable<TakenRequest['basic']> {
    const split = text.indexOf(':');
    const [user, password] = split < 0 ? [text, ''] : [text.slice(0, split), text.slice(split + 1)];
    const secret = this.secret(password, [api, 'password'], 'basic authentication');
    return { user, password: secret.text, isLinked: secret.isLinked };
  }

  /** A credential behind its scheme: `Bearer ...`, `Token ...`. */
  private credential(place: Credential['place'], name: string, value: string, api: string): Credential {
    const isBearer = name.toLowerCase() === 'authorization';
    const pattern = isBearer ? /^((?:[A-Za-z][A-Za-z-]* )?)(.*)$/s : /^((?:[A-Za-z][A-Za-z-]* (?=\S+$))?)(.*)$/s;
    const [, scheme = '', key = ''] = pattern.exec(value)!;
    const words = isBearer
      ? [api, /^bearer $/i.test(scheme) || scheme === '' ? 'token' : 'key']
      : [api, name.replace(/^x-/i, '')];
    const { text, isLinked } = this.secret(key, words, place === 'header' ? `header ${name}` : `query ${name}`);
    return { place, name, value: scheme + text, isLinked };
  }

  /** A secret by its mark: of an earlier response, of the project, new, or one whose value the sample leaves open. */
  private secret(
    value: string,
    words: readonly string[],
    where: string,
  ): Readonly<{ text: string; isLinked: boolean }> {
    if (holdsMarks(value)) return { text: value, isLinked: false };
    const known = this.secrets.nameOf(value);
    const link = known === undefined ? this.links.of(value, true) : undefined;
    if (link) {
      return { text: this.linked(link, where), isLinked: true };
    }
    const isOpen = documentedIn(value).length > 0 || value === '';
    const name = isOpen ? this.secrets.missing(words) : this.secrets.add(value, words);
    const still = isOpen ? ', whose value is not in the sample' : '';
    this.report.add(`secret: ${name} (${where})${still}`);
    return { text: mark(`secret.${name}`), isLinked: false };
  }

  /** Cookies that an earlier response set come from the jar; what else is one is a credential. */
  private cookie(header: string, value: string, api: string): readonly (readonly [string, string])[] {
    const kept = value.split(/;\s*/).flatMap((pair) => {
      const [name = '', ...rest] = pair.split('=');
      const text = rest.join('=');
      if (text === '' || this.cookiesOf(name, text)) return text === '' && pair !== '' ? [pair] : [];
      return [`${name}=${this.secret(text, [api, name], `cookie ${name}`).text}`];
    });
    return kept.length === 0 ? [] : [[header, kept.join('; ')]];
  }

  /** The path of a URL, segment by segment. */
  private path(url: string, api: string): string {
    const [, origin = '', path = ''] = /^([a-z]+:\/\/[^/]*)?(.*)$/is.exec(url)!;
    const segments = path.split('/');
    const written = segments.map((segment, i) => {
      const text = percentDecoded(segment);
      if (text === '') return segment;
      if (documentedIn(text).length > 0) return this.open(text, nameBehind(segments[i - 1]), false, api);
      if (hasSecretShape(text)) return this.secret(text, [api, 'path', 'key'], 'path').text;
      const link = this.links.of(text);
      return link ? this.linked(link, `path behind ${segments[i - 1] || '/'}`) : segment;
    });
    return origin + written.join('/');
  }

  private linked({ name, call, expression, isKept, others }: Link, where: string): string {
    const how = isKept ? 'is kept' : `is now kept: ${expression}`;
    const more = others > 0 ? `; ${others} other ${others === 1 ? 'call' : 'calls'} gave the same value` : '';
    this.report.add(`linked: {${name}} (${where}) ${how}, by ${call}${more}`);
    return mark(name);
  }

  /** A parameter: linked, open, a day, or a constant. */
  private parameter(name: string, value: string, api: string): string {
    const text = this.text(value, name, 'parameter', api);
    if (text !== value) return text;
    if (this.takesDays && /^\d{4}-\d\d-\d\d$/.test(value) && !Number.isNaN(Date.parse(value))) {
      const input = this.input(inputName(name), 'date', value);
      this.report.add(`input: ${input} (was ${value})`);
      return mark(input);
    }
    this.report.add(`constant: ${name}=${value}`);
    return value;
  }

  /** A text under a name: what documentation leaves open in it, or all of it from an earlier response. */
  private text(value: string, name: string, place: NamePlace, api: string): string {
    if (holdsMarks(value)) return value;
    const isBody = place === 'member';
    if (documentedIn(value, isBody).length > 0) return this.open(value, inputName(name), isBody, api);
    const link = this.links.of(value);
    return link ? this.linked(link, name) : value;
  }

  /** A text whose placeholders of documentation are inputs; one that is named as a credential is a secret. */
  private open(text: string, fallback: string, isBody: boolean, api: string): string {
    let written = '';
    let at = 0;
    for (const { from, to, name } of documentedIn(text, isBody)) {
      const said = name === undefined ? fallback : inputName(name);
      const shown = text.slice(from, to);
      written += text.slice(at, from);
      if (name !== undefined && isSecretName(name, 'x'.repeat(8), 'member')) {
        written += this.secret(shown, [api, name], `placeholder ${shown}`).text;
      } else {
        written += mark(this.input(said, 'string', undefined));
        this.report.add(`placeholder: ${shown} became the input ${said}`);
      }
      at = to;
    }
    return written + text.slice(at);
  }

  /** An input; another default under the same name is another input. */
  private input(plain: string, type: DraftInput['type'], said: string | undefined): string {
    let name = plain;
    for (let i = 2; ; i++) {
      const known = this.inputs.get(name);
      if (!known) this.inputs.set(name, { name, type, default: said });
      if (!known || known.default === said) return name;
      name = `${plain}_${i}`;
    }
  }

  private body(body: DraftBody, json: Value | undefined, api: string): DraftBody {
    switch (body.kind) {
      case 'form':
        return { ...body, fields: body.fields.map(([name, value]) => [name, this.member(name, value, api)] as const) };
      case 'multipart':
        return {
          ...body,
          fields: body.fields.map((field) =>
            'text' in field ? { ...field, text: this.member(field.name, field.text, api) } : field,
          ),
        };
      case 'json':
        // What cannot be written as a value stays a text, to the byte.
        return json === undefined
          ? { kind: 'text', text: this.known(body.text), type: body.type ?? 'application/json' }
          : body;
      case 'text':
        return { ...body, text: this.known(body.text) };
      default:
        return body;
    }
  }

  private member(name: string, value: string, api: string): string {
    if (this.isSecret(name, value, 'parameter')) return this.secret(value, [api, name], `form ${name}`).text;
    return this.text(value, name, 'member', api);
  }

  private json(value: Value, api: string): Value {
    return withScalars(value, (scalar, text, keys) => {
      const name = String(keys.findLast((key) => typeof key === 'string') ?? 'value');
      if (typeof scalar === 'string' && this.isSecret(name, text, 'member'))
        return this.secret(text, [api, name], `member ${name}`).text;
      if (typeof scalar === 'string') return this.text(text, name, 'member', api);
      const link = this.links.of(text);
      return link && this.linked(link, name);
    });
  }

  /** A text in which known secrets are replaced. */
  private known(text: string): string {
    const name = this.secrets.nameOf(text.trim());
    return name === undefined ? text : mark(`secret.${name}`);
  }
}

/** `user:password` of a header of basic authentication (RFC 7617). */
function basicIn(name: string, value: string): string | undefined {
  const encoded = name.toLowerCase() === 'authorization' ? /^Basic\s+([A-Za-z0-9+/]+=*)$/i.exec(value)?.[1] : undefined;
  const decoded = encoded === undefined ? undefined : textOfBase64(encoded);
  return decoded?.includes(':') ? decoded : undefined;
}
