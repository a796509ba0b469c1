import type { Auth, Authenticator } from '../../http/auth/definition.ts';
import type { SignInHelp, TokenStore } from '../../http/auth/help.ts';
import { Jar } from '../../http/cookies.ts';
import type { Endpoint } from '../../http/endpoint.ts';
import type { ConnectionOptions } from '../../http/message.ts';
import { fillText, type Resolver } from '../../template/fill.ts';
import type { TextTemplate } from '../../template/template.ts';
import { namesRead } from '../../expression/names-read.ts';

/** Names that stand in credentials and differ in nothing between the calls of a run. */
const SHARED_NAMES: ReadonlySet<string> = new Set(['secret', 'setting', 'outputs', 'request']);

/** What a run holds of each api: credentials at work, cookies, and how it is connected to. */
export class Sessions {
  private readonly jars = new Map<string, Jar>();

  constructor(
    readonly tokens: TokenStore,
    readonly help: SignInHelp,
    private readonly authenticators = new Map<Auth, Map<string, Authenticator>>(),
    readonly connections = new Map<string, ConnectionOptions>(),
  ) {}

  /** The credential at work: one for each definition and for what its placeholders read of the chain. */
  authenticatorOf(auth: Auth, resolver: Resolver): Authenticator {
    let known = this.authenticators.get(auth);
    if (!known) this.authenticators.set(auth, (known = new Map<string, Authenticator>()));
    const key = auth.texts
      .filter((text) => differs(text, auth))
      .map((text) => fillText(text, resolver))
      .join('\0');
    let authenticator = known.get(key);
    if (!authenticator) known.set(key, (authenticator = auth.authenticator()));
    return authenticator;
  }

  /** The same with cookies of its own, which begin as they are now. */
  withOwnCookies(): Sessions {
    const copy = new Sessions(this.tokens, this.help, this.authenticators, this.connections);
    for (const [key, jar] of this.jars) copy.jars.set(key, jar.copy());
    return copy;
  }

  jarOf(endpoint: Endpoint): Jar {
    const key = placeKey(endpoint);
    let jar = this.jars.get(key);
    if (!jar) this.jars.set(key, (jar = new Jar()));
    return jar;
  }
}

/** An api at a deployment, as a key. */
export function placeKey({ api, deployment }: Endpoint): string {
  return `${api}\0${deployment ?? ''}`;
}

/** Whether a text reads names of the chain, so that two calls may mean two credentials; what is filled for each request alone does not. */
function differs({ pieces }: TextTemplate, { names }: Auth): boolean {
  const read = pieces.flatMap((piece) => (typeof piece === 'string' ? [] : namesRead(piece.node)));
  return read.some((name) => !SHARED_NAMES.has(name)) && !read.some((name) => names.includes(name));
}
