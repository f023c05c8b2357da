/** Sources that a task opens, and lets go of whatever happens. */
import type { Source } from '@yarlop/media/source';

/** Opens a source that is closed with the task. */
export type Open = (make: Promise<Source>) => Promise<Source>;

/** Lets go of what a task opened, whatever happens. */
export async function withSources<T>(work: (open: Open) => Promise<T>): Promise<T> {
  const opened: Source[] = [];
  try {
    return await work(async (make) => {
      const source = await make;
      opened.push(source);
      return source;
    });
  } finally {
    for (const s of opened) await s.dispose();
  }
}
