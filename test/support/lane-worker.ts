import { Agent, request } from 'node:http';
import { systemClock } from '../../src/adapters/clock.ts';
import { laneFiles } from '../../src/adapters/lane-files.ts';
import { Lane, takeSlots } from '../../src/core/pacing/lane.ts';
import { MIDNIGHT_UTC, paceOf, readPace } from '../../src/core/pacing/pace.ts';

/** A process that sends as fast as its lane lets it, until the quota is spent: `lane-worker FOLDER URL PACE...`. */
const [folder = '', url = '', ...paces] = process.argv.slice(2);
const store = laneFiles(folder);
const pace = paceOf(paces.map((each) => readPace(each)!));
const lane = new Lane({ name: 'a', pace, resets: MIDNIGHT_UTC, atOnce: 3, waitAtMostMs: 60_000 }, store, systemClock);
const agent = new Agent({ keepAlive: true, maxSockets: 3 });
const never = new AbortController().signal;

async function work(): Promise<void> {
  for (;;) {
    const taken = await takeSlots([lane], store, systemClock, never, 60_000, () => {});
    if (!('slots' in taken)) return;
    await new Promise<void>((resolve) => {
      const sending = request(url, { agent }, (response) => response.resume().on('end', resolve));
      const go = () => {
        taken.slots.sent();
        sending.end();
      };
      // It goes out when the connection is there.
      sending.on('socket', (socket) => (socket.connecting ? socket.once('connect', go) : go()));
    });
    taken.slots.ended();
  }
}

void Promise.all([work(), work(), work()]).then(() => {
  agent.destroy();
  store.close();
});
