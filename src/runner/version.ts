/** Put in by the build from package.json. */
declare const BATHARON_VERSION: string | undefined;

export const VERSION: string = typeof BATHARON_VERSION === 'string' ? BATHARON_VERSION : '0.0.0';
export const USER_AGENT = `batharon/${VERSION}`;
