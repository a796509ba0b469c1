import type { CookieJar } from 'tough-cookie';
import { toughCookie } from '../packages.ts';
import type { Header } from './message.ts';

/** The cookies of one api at one deployment in one run (RFC 6265). Made when the first one is set. */
export class Jar {
  constructor(private jar?: CookieJar) {}

  /** Takes in what a response sets; what a server may not set is passed over, as browsers do. */
  store(headers: readonly Header[], url: string): void {
    for (const [name, value] of headers) {
      if (name.toLowerCase() !== 'set-cookie') continue;
      this.jar ??= new (toughCookie().CookieJar)();
      this.jar.setCookieSync(value, url, { ignoreError: true });
    }
  }

  /** Names and values for a request, in the order of RFC 6265 section 5.4. */
  cookiesFor(url: string): readonly Readonly<{ name: string; value: string }>[] {
    return this.jar?.getCookiesSync(url).map(({ key, value }) => ({ name: key, value })) ?? [];
  }

  /** A jar that begins with the same cookies and goes its own way. */
  copy(): Jar {
    return new Jar(this.jar?.cloneSync());
  }
}
