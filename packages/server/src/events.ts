/**
 * One stream of server-sent events for each open page: jobs, solved frames, media, saved recipes. Events carry no numbers:
 * a page that was cut off reads anew what it shows.
 */
import type { EventName, EventOf } from '@yarlop/contracts/routes';
import type { Request, Response } from 'express';
import { visitorOf } from './visitor';

/** Streams of one visitor; a browser holds six of a server by itself, and pages that were left may linger. */
const MOST_STREAMS = 12;
/** Ms between signs of life, shorter than what networks cut off after. By trial. */
const SIGN_OF_LIFE = 20_000;
/** Bytes that may wait for a page that does not read; one that is cut off reads anew. */
const MOST_WAITING = 4 * 2 ** 20;

/** Events that pages of other shots need not hear. */
const OF_ONE_SHOT: readonly EventName[] = ['frames', 'points', 'camera'];

interface Stream {
  readonly response: Response;
  readonly visitor: string;
  /** solved frames of other shots are not sent */
  readonly shotId: number | null;
}

export class EventHub {
  private readonly streams = new Set<Stream>();
  private readonly life = setInterval(() => this.send(': still here\n\n'), SIGN_OF_LIFE).unref();

  emit<E extends EventName>(event: E, data: EventOf<E>): void {
    const shotId = OF_ONE_SHOT.includes(event) ? (data as { readonly shotId: number }).shotId : null;
    this.send(`event: ${event}\ndata: ${JSON.stringify(data)}\n\n`, shotId);
  }

  /** @param shotId the shot that it is about, when pages of others need not hear it */
  private send(text: string, shotId: number | null = null): void {
    for (const s of this.streams) {
      if (shotId !== null && s.shotId !== shotId) continue;
      if (s.response.writableLength > MOST_WAITING) this.cut(s);
      else s.response.write(text);
    }
  }

  /** `?shot=` tells which shot the page shows. A visitor's oldest stream makes way for one too many. */
  connect(req: Request, res: Response): void {
    const shotId = Number(req.query['shot']) || null;
    const stream = { response: res, visitor: visitorOf(req), shotId };
    const own = [...this.streams].filter((s) => s.visitor === stream.visitor);
    if (own.length >= MOST_STREAMS) this.cut(own[0]!);
    res.writeHead(200, { 'Content-Type': 'text/event-stream', 'Cache-Control': 'no-store', 'X-Accel-Buffering': 'no' });
    res.write('retry: 1000\n\n');
    this.streams.add(stream);
    req.on('close', () => this.streams.delete(stream));
  }

  /** Of somebody who may not hear any more. */
  cutStreams(visitor: string): void {
    for (const s of [...this.streams].filter((s) => s.visitor === visitor)) this.cut(s);
  }

  private cut(stream: Stream): void {
    this.streams.delete(stream);
    stream.response.destroy();
  }

  close(): void {
    clearInterval(this.life);
    for (const s of this.streams) s.response.end();
    this.streams.clear();
  }
}
