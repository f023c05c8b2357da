/** The server's own log: what goes wrong on the terminal, every request with its number in files of a limited size. */
import { mkdirSync } from 'node:fs';
import { join } from 'node:path';
import type { RequestHandler } from 'express';
import type { Logger } from 'pino';
import { multistream, pino } from 'pino';
import { pinoHttp } from 'pino-http';
import { createStream } from 'rotating-file-stream';

/** A file of the log is closed at this size, and so many closed ones are kept. */
const FILE_SIZE = '10M';
const FILES = 5;

/**
 * @param folder where the files lie
 * @param level of what the terminal shows
 */
export function openLog(folder: string, level: string): Logger {
  mkdirSync(folder, { recursive: true });
  const files = createStream('server.log', { path: folder, size: FILE_SIZE, maxFiles: FILES });
  // A full disk stops the log and nothing else.
  files.on('error', (e) => process.stderr.write(`The log cannot be written: ${e.message}\n`));
  // So does a terminal that was closed, or a program that no longer reads.
  for (const shown of [process.stdout, process.stderr]) shown.on('error', () => {});
  return pino(
    { level: 'debug', base: null },
    multistream([
      { level: level as 'warn', stream: process.stdout },
      { level: 'info', stream: files },
    ]),
  );
}

/** Where the log of a data folder lies. */
export function logFolder(data: string): string {
  return join(data, 'logs');
}

/** Gives each request a number, says it in the answer, and writes both down. */
export function requestLog(log: Logger): RequestHandler {
  let next = 0;
  const run = Date.now().toString(36);
  return pinoHttp({
    logger: log,
    genReqId: (_req, res) => {
      const id = `${run}-${++next}`;
      res.setHeader('X-Request-Id', id);
      return id;
    },
    // What failed is logged where it is known why.
    customLogLevel: () => 'info',
    serializers: {
      req: ({ id, method, url }: { id: string; method: string; url: string }) => ({ id, method, url }),
      res: ({ statusCode }: { statusCode: number }) => ({ statusCode }),
    },
  });
}
