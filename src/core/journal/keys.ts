/** The name of a call in its key. */
export const nameInKey = (key: string): string => key.slice(key.lastIndexOf('/') + 1);

/** What stands before it: the loops and items that it is in. */
export const placeInKey = (key: string): string => key.slice(0, key.lastIndexOf('/') + 1);

/** `each:vessel/ask` of `each:vessel{9f3c}/ask`: the same for every item and round. */
export const withoutItems = (key: string): string => key.replace(/\{[^{}]*\}\//g, '/');
