/** The server's end of the line to a worker thread. */
import type { MessagePort } from 'node:worker_threads';
import type { Report } from './worker-protocol';

/** What a worker says on the way; the end is told by {@link listen} itself. */
export type Word = Exclude<Report, { type: 'end' }>;

/** @returns settles once everything that the worker said was heard, or its line broke */
export function listen(port: MessagePort, hear: (word: Word) => void): Promise<void> {
  return new Promise((resolve) => {
    port.on('message', (report: Report) => {
      if (report.type === 'end') resolve();
      else hear(report);
    });
    port.on('close', resolve);
  });
}
