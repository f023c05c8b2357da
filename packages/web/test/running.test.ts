import { describe, expect, it } from 'vitest';
import type { Metric } from '../src/types';
import { lookAt, quantileOf, ratesOf, routesOf } from '../src/running/figures';

const bucket = (route: string, le: string, value: number): Metric => ({
  name: 'yarlop_request_seconds_bucket',
  labels: { route, le, status: '200' },
  value,
});
const of = (name: string, value: number, labels: Record<string, string> = {}): Metric => ({ name, labels, value });

describe('the quantile of a histogram', () => {
  // Worked by hand after the rule of the Prometheus documentation (histogram_quantile): rank, then linear in its bucket.
  const steps = [
    { end: 0.1, below: 50 },
    { end: 0.5, below: 90 },
    { end: 1, below: 100 },
    { end: Infinity, below: 100 },
  ];
  it.each([
    [0.5, 0.1],
    [0.7, 0.3],
    [0.95, 0.75],
    [1, 1],
    [0.25, 0.05],
  ])('at %d is %d', (share, expected) => expect(quantileOf(steps, share)).toBeCloseTo(expected, 12));
  it('is the last end that is known for what lies beyond all, and 0 for nothing', () => {
    expect(
      quantileOf(
        [
          { end: 1, below: 1 },
          { end: Infinity, below: 10 },
        ],
        0.95,
      ),
    ).toBe(1);
    expect(
      quantileOf(
        [
          { end: 1, below: 0 },
          { end: Infinity, below: 0 },
        ],
        0.95,
      ),
    ).toBe(0);
    expect(quantileOf([], 0.5)).toBe(0);
  });
});

describe('routes', () => {
  it('are told with statuses taken together, the one that took the most time first', () => {
    const metrics = [
      bucket('GET /a', '0.1', 3),
      bucket('GET /a', '+Inf', 4),
      { ...bucket('GET /a', '0.1', 1), labels: { route: 'GET /a', le: '0.1', status: '404' } },
      { ...bucket('GET /a', '+Inf', 1), labels: { route: 'GET /a', le: '+Inf', status: '404' } },
      of('yarlop_request_seconds_count', 4, { route: 'GET /a', status: '200' }),
      of('yarlop_request_seconds_count', 1, { route: 'GET /a', status: '404' }),
      of('yarlop_request_seconds_sum', 0.4, { route: 'GET /a', status: '200' }),
      of('yarlop_request_seconds_sum', 0.1, { route: 'GET /a', status: '404' }),
      of('yarlop_request_seconds_count', 1, { route: 'pictures', status: '200' }),
      of('yarlop_request_seconds_sum', 2, { route: 'pictures', status: '200' }),
      bucket('pictures', '+Inf', 1),
    ];
    const [first, second] = routesOf(metrics);
    expect(first).toMatchObject({ route: 'pictures', count: 1, mean: 2000 });
    expect(second).toMatchObject({ route: 'GET /a', count: 5, mean: 100 });
    expect(second!.p95).toBeCloseTo(100, 9);
  });
});

describe('looks', () => {
  const at = (ms: number, requests: number) => lookAt([of('yarlop_request_seconds_count', requests)], ms);
  it('read what stands alone, and jobs of all kinds in a state', () => {
    const metrics = [
      of('yarlop_jobs', 2, { kind: 'follow', state: 'running' }),
      of('yarlop_jobs', 1, { kind: 'deliver', state: 'running' }),
      of('yarlop_jobs', 7, { kind: 'deliver', state: 'done' }),
      of('nodejs_eventloop_lag_p99_seconds', 0.02),
    ];
    expect(lookAt(metrics, 5)).toMatchObject({ at: 5, running: 3, waiting: 0, late: 20, requests: 0 });
  });
  it('tell requests a second, and nothing of the first or across a new beginning', () => {
    expect(ratesOf([at(0, 10), at(2000, 14), at(4000, 3), at(5000, 4)])).toEqual([null, 2, null, 1]);
  });
});
