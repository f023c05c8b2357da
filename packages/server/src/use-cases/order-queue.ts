import type { Context } from '../context';
import type { QueueRow } from '../rows';
import * as jobs from '../sql/jobs';

/**
 * Puts deliveries that wait into an order: those named share their places among themselves, the others keep theirs.
 * What has begun since is left out, and is no error: the person saw an older queue.
 */
export async function orderQueue(c: Context, order: readonly number[]): Promise<QueueRow[]> {
  await c.db.transaction(async (t) => {
    const waiting = await t.all<QueueRow>(jobs.listQueue);
    const named = [...new Set(order)].filter((id) => waiting.some((w) => w.id === id));
    const places = waiting.filter((w) => named.includes(w.id)).map((w) => w.place);
    for (const [i, id] of named.entries()) await t.run(jobs.setPlace, [places[i]!, id]);
  });
  c.events.emit('queue', {});
  return c.db.all<QueueRow>(jobs.listQueue);
}
