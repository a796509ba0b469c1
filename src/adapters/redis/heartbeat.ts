/** How often a process says that it is there, for how long that holds, and for how long it may be silent before others go on. */
export const HEARTBEAT_MS = 500;
export const EXPIRES_MS = 5000;
export const SILENT_MS = 2000;

/** Says that a process is there still: 0 where it was silent for so long that others went on without it. */
export const BEAT = `
if redis.call('PTTL', KEYS[1]) <= ${EXPIRES_MS - SILENT_MS} then return 0 end
redis.call('PEXPIRE', KEYS[1], ${EXPIRES_MS})
return 1
`;
