/** One stream of server-sent events for each browser: jobs, solved frames, media, saved recipes. */
import type { Request, Response } from 'express';

export interface Events {
  readonly job: { readonly id: number; readonly [key: string]: unknown };
  readonly frames: { readonly screenId: number; readonly solveId: number; readonly frames: readonly unknown[] };
  readonly media: { readonly hash: string };
  readonly bin: Record<string, never>;
  readonly screen: { readonly id: number; readonly revision: number };
  readonly queue: Record<string, never>;
  readonly deliveries: { readonly shotId: number };
}

export class EventHub {
  private readonly clients = new Set<Response>();
  private next = Date.now();

  emit<K extends keyof Events>(event: K, data: Events[K]): void {
    const text = `id: ${this.next++}\nevent: ${event}\ndata: ${JSON.stringify(data)}\n\n`;
    for (const c of this.clients) c.write(text);
  }

  connect(req: Request, res: Response): void {
    res.writeHead(200, { 'Content-Type': 'text/event-stream', 'Cache-Control': 'no-store', 'X-Accel-Buffering': 'no' });
    res.write('retry: 1000\n\n');
    this.clients.add(res);
    req.on('close', () => this.clients.delete(res));
  }

  close(): void {
    for (const c of this.clients) c.end();
    this.clients.clear();
  }
}
