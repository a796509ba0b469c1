import { spawn } from 'node:child_process';
import { createServer, type ServerResponse } from 'node:http';
import type { AddressInfo } from 'node:net';
import type { LoopbackListener, SignInHelp } from '../core/http/auth/help.ts';
import { isLoopbackUrl } from '../core/http/message.ts';
import { visible } from '../core/value/visible.ts';
import type { MaskedOutput } from './masked-output.ts';

/** A person at a terminal, whose browser is opened for them; addresses are shown as well. */
export function signInHelp(isPresent: boolean, exit: MaskedOutput): SignInHelp {
  return {
    isPresent,
    listen,
    open: (address, why) => {
      exit.err(`${visible(`${why}: ${address}`)}\n`);
      openBrowser(address);
    },
    showCode: (address, code) => {
      exit.err(`${visible(`Open ${address} and enter the code ${code}`)}\n`);
      openBrowser(address);
    },
  };
}

/** Only pages of the web are opened, and plain http only on this machine: a server names the address. */
function isForBrowsers(address: string): boolean {
  if (!URL.canParse(address)) return false;
  const { protocol, origin } = new URL(address);
  return protocol === 'https:' || isLoopbackUrl(origin);
}

/** The program that opens addresses: `BROWSER`, as is usual, else the system's own. */
function openBrowser(address: string): void {
  if (!isForBrowsers(address)) return;
  const own: Readonly<Record<string, string>> = { darwin: 'open', win32: 'explorer' };
  const program = process.env['BROWSER'] ?? own[process.platform] ?? 'xdg-open';
  try {
    const child = spawn(program, [new URL(address).href], { stdio: 'ignore', detached: true });
    child.on('error', () => {});
    child.unref();
  } catch {
    // The address was shown; somebody will open it.
  }
}

const PAGE_HEADERS = {
  'Content-Type': 'text/html; charset=utf-8',
  'Content-Security-Policy': "default-src 'none'",
  'Cache-Control': 'no-store',
  Connection: 'close',
};

/**
 * Listens on the loopback address for the browser to come back (RFC 8252 section 7.3): once, with the right state, by GET
 * on `/`. Everything else is 404, so that no other page can bring a sign-in of its own.
 */
function listen(port: number, state: string): Promise<LoopbackListener> {
  let arrive: (url: string) => void;
  const arrival = new Promise<string>((resolve) => (arrive = resolve));
  let isDone = false;
  const server = createServer((request, response) => {
    const { port: own } = server.address() as AddressInfo;
    const url = new URL(request.url ?? '/', `http://127.0.0.1:${own}/`);
    const fits = request.method === 'GET' && url.pathname === '/' && url.searchParams.get('state') === state;
    if (!fits || isDone) return answer(response, 404, 'Not found', 'There is nothing at this address.');
    isDone = true;
    const isRefused = url.searchParams.has('error');
    answer(
      response,
      200,
      isRefused ? 'The sign-in was refused' : 'Signed in',
      'You can close this page and return to the terminal.',
    );
    arrive(url.href);
  });
  return new Promise((resolve, reject) => {
    server.once('error', reject);
    server.listen(port, '127.0.0.1', () => {
      const { port: own } = server.address() as AddressInfo;
      resolve({
        address: `http://127.0.0.1:${own}/`,
        arrived: (withinMs, signal) => withTimeout(arrival, withinMs, signal),
        close: () => void server.close(),
      });
    });
  });
}

function withTimeout(arrival: Promise<string>, withinMs: number, signal: AbortSignal): Promise<string | undefined> {
  return new Promise((resolve) => {
    const timer = setTimeout(() => resolve(undefined), withinMs);
    signal.addEventListener('abort', () => resolve(undefined), { once: true });
    void arrival.then((url) => {
      clearTimeout(timer);
      resolve(url);
    });
  });
}

/** A page that loads nothing. */
function answer(response: ServerResponse, status: number, title: string, text: string): void {
  const page = `<!doctype html><html lang="en"><title>${title}</title><h1>${title}</h1><p>${text}</p></html>\n`;
  response.writeHead(status, PAGE_HEADERS).end(page);
}
