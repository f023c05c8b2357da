/** What the server's own numbers say, for the page that draws them. */
import type { Metric } from '../types';

export interface RouteFigures {
  readonly route: string;
  readonly count: number;
  /** ms */
  readonly mean: number;
  /** ms that 95 of 100 stayed below, as far as the counted steps tell */
  readonly p95: number;
}

/** A number that stands alone; 0 where it is not told. */
export function valueOf(
  metrics: readonly Metric[],
  name: string,
  labels: Readonly<Record<string, string>> = {},
): number {
  const isIt = (m: Metric): boolean => m.name === name && Object.entries(labels).every(([k, v]) => m.labels[k] === v);
  return metrics.filter(isIt).reduce((sum, m) => sum + m.value, 0);
}

/**
 * The value below which a share of what was counted lies: linear within the step that holds it, and the last step's lower
 * end for what lies beyond all. As Prometheus reckons it (Prometheus documentation, Query functions, histogram_quantile).
 * @param steps upper ends that rise, the last one Infinity, each with how many lie below it
 */
export function quantileOf(steps: readonly { readonly end: number; readonly below: number }[], share: number): number {
  const all = steps.at(-1)?.below ?? 0;
  if (all === 0) return 0;
  const i = steps.findIndex((s) => s.below >= share * all);
  const before = steps[i - 1] ?? { end: 0, below: 0 };
  const step = steps[i]!;
  if (!Number.isFinite(step.end)) return before.end;
  const within = step.below - before.below;
  return before.end + (step.end - before.end) * ((share * all - before.below) / Math.max(within, 1));
}

/** Routes by how much time they took in all. */
export function routesOf(metrics: readonly Metric[]): RouteFigures[] {
  const own = metrics.filter((m) => m.name.startsWith('yarlop_request_seconds'));
  const routes = [...new Set(own.map((m) => m.labels['route'] ?? ''))];
  const figures = routes.map((route): RouteFigures => {
    const count = valueOf(own, 'yarlop_request_seconds_count', { route });
    const seconds = valueOf(own, 'yarlop_request_seconds_sum', { route });
    const ends = new Map<number, number>();
    for (const m of own) {
      if (m.name !== 'yarlop_request_seconds_bucket' || m.labels['route'] !== route) continue;
      const end = m.labels['le'] === '+Inf' ? Infinity : Number(m.labels['le']);
      ends.set(end, (ends.get(end) ?? 0) + m.value);
    }
    const steps = [...ends].map(([end, below]) => ({ end, below })).sort((a, b) => a.end - b.end);
    return { route, count, mean: (1000 * seconds) / Math.max(count, 1), p95: 1000 * quantileOf(steps, 0.95) };
  });
  return figures.sort((a, b) => b.count * b.mean - a.count * a.mean);
}

/** What one look tells. */
export interface Look {
  /** ms since 1970 */
  readonly at: number;
  /** ms by which the server's own thread came late, at 99 of 100 looks */
  readonly late: number;
  /** bytes */
  readonly memory: number;
  readonly running: number;
  readonly waiting: number;
  /** since the server began */
  readonly requests: number;
}

export function lookAt(metrics: readonly Metric[], at: number): Look {
  return {
    at,
    late: 1000 * valueOf(metrics, 'nodejs_eventloop_lag_p99_seconds'),
    memory: valueOf(metrics, 'process_resident_memory_bytes'),
    running: valueOf(metrics, 'yarlop_jobs', { state: 'running' }),
    waiting: valueOf(metrics, 'yarlop_jobs', { state: 'waiting' }),
    requests: valueOf(metrics, 'yarlop_request_seconds_count'),
  };
}

/** Requests a second between a look and the one before; null for the first, and after the server began anew. */
export function ratesOf(looks: readonly Look[]): (number | null)[] {
  return looks.map((now, i) => {
    const before = looks[i - 1];
    if (!before || now.requests < before.requests || now.at <= before.at) return null;
    return (1000 * (now.requests - before.requests)) / (now.at - before.at);
  });
}
