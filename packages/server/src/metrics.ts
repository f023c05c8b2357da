/**
 * Numbers for whoever looks after an installation, in the text format of Prometheus (exposition format 0.0.4) and as JSON
 * for the page that draws them.
 */
import type { RequestHandler } from 'express';
import { Counter, Gauge, Histogram, Registry, collectDefaultMetrics } from 'prom-client';
import { routeOf } from '@yarlop/contracts/routes';
import type { Context } from './context';
import { freeBytes } from './free-bytes';
import * as jobs from './sql/jobs';

/** Seconds of a request up to which it is counted. By trial: a saved recipe takes 0.02, a frame in full 0.2. */
const BUCKETS = [0.005, 0.02, 0.05, 0.1, 0.25, 0.5, 1, 2.5, 10];

interface JobCount {
  readonly kind: string;
  readonly state: string;
  readonly jobs: number;
}

/** What every request is counted as: few names, whatever is asked for. */
function nameOf(method: string, path: string): string {
  const under = path.startsWith('/api/') ? path.slice('/api'.length) : null;
  if (under === null) return 'pages';
  const route = routeOf(method, under);
  if (route) return route;
  return /\/(proxy|frames)\//.test(under) ? 'pictures' : 'other';
}

export class Metrics {
  private readonly registry = new Registry();
  private readonly requests = new Histogram({
    name: 'yarlop_request_seconds',
    help: 'How long requests took, by route and status.',
    labelNames: ['route', 'status'],
    buckets: BUCKETS,
    registers: [this.registry],
  });
  private readonly errors = new Counter({
    name: 'yarlop_errors_total',
    help: 'Requests that the server failed at (status 5xx).',
    registers: [this.registry],
  });
  private readonly workersEnded = this.gauge('yarlop_workers_ended', 'Workers that ended under a job.');
  private readonly slots = this.gauge('yarlop_worker_slots', 'Jobs that can run at once.');
  private readonly database = this.gauge('yarlop_database_up', '1 while the database answers.');
  private readonly disk = this.gauge('yarlop_disk_free_bytes', 'Free where the data lies.');
  private readonly oldest = this.gauge('yarlop_queue_oldest_seconds', 'How long the oldest job has waited.');
  private readonly jobs = new Gauge({
    name: 'yarlop_jobs',
    help: 'Jobs by kind and state.',
    labelNames: ['kind', 'state'],
    registers: [this.registry],
  });

  constructor() {
    collectDefaultMetrics({ register: this.registry });
  }

  private gauge(name: string, help: string): Gauge {
    return new Gauge({ name, help, registers: [this.registry] });
  }

  /** Times every request until it is answered. */
  readonly observe: RequestHandler = (req, res, next) => {
    const { method, path } = req;
    // The stream of events is open for as long as its page is.
    if (path === '/api/events') return next();
    const begin = process.hrtime.bigint();
    res.on('close', () => {
      const seconds = Number(process.hrtime.bigint() - begin) / 1e9;
      this.requests.observe({ route: nameOf(method, path), status: String(res.statusCode) }, seconds);
      if (res.statusCode >= 500) this.errors.inc();
    });
    next();
  };

  /** @param workers slots, and workers that ended under a job */
  private async look(c: Context, workers: { readonly slots: number; readonly ended: number }): Promise<void> {
    this.slots.set(workers.slots);
    this.workersEnded.set(workers.ended);
    this.disk.set(await freeBytes(c.config.data));
    this.jobs.reset();
    try {
      const counts = await c.db.all<JobCount>(jobs.countJobs);
      for (const { kind, state, jobs: n } of counts) this.jobs.set({ kind, state }, Number(n));
      const queue = await c.db.one<{ oldestSeconds: number }>(jobs.queueState);
      this.oldest.set(Number(queue?.oldestSeconds ?? 0));
      this.database.set(1);
    } catch {
      this.database.set(0);
    }
  }

  async text(c: Context, workers: Parameters<Metrics['look']>[1]): Promise<{ type: string; text: string }> {
    await this.look(c, workers);
    return { type: this.registry.contentType, text: await this.registry.metrics() };
  }

  /** The same numbers by their names, each with its labels. */
  async values(c: Context, workers: Parameters<Metrics['look']>[1]): Promise<object[]> {
    await this.look(c, workers);
    const all = await this.registry.getMetricsAsJSON();
    return all.flatMap((m) =>
      m.values.map((v) => ({
        name: (v as { metricName?: string }).metricName ?? m.name,
        labels: Object.fromEntries(Object.entries(v.labels).map(([k, label]) => [k, String(label)])),
        value: Number.isFinite(v.value) ? v.value : 0,
      })),
    );
  }
}
