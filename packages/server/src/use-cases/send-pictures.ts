import type { Response } from 'express';
import type { Context } from '../context';
import type { DeskTask } from '../worker-protocol';

/**
 * Streams the pixels that a question's thread tells on the way, picture after picture; who leaves ends the work.
 * @param bytes of them all
 */
export async function sendPictures(c: Context, task: DeskTask, bytes: number, res: Response): Promise<void> {
  res.writeHead(200, {
    'Content-Type': 'application/octet-stream',
    'Cache-Control': 'no-store',
    'Content-Length': bytes,
  });
  await c.desk.ask(
    task,
    (report) => {
      if (report.type === 'pixels') res.write(Buffer.from(report.data.buffer));
    },
    (leave) => res.on('close', leave),
  );
  res.end();
}
