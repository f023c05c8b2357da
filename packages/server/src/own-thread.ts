/**
 * How long the server's own thread keeps others waiting, and how much of that it works: the rest is spent by the machine
 * on something else. Source of the second: field 1 of /proc/PID/task/TID/schedstat, Linux kernel documentation,
 * scheduler/sched-stats.
 */
import { existsSync, openSync, readSync } from 'node:fs';
import { monitorEventLoopDelay } from 'node:perf_hooks';

/** Ms between looks. */
const RESOLUTION = 5;
const NANOSECONDS_A_MS = 1e6;
/** Bytes that hold the file. */
const LINE = 64;

export interface Kept {
  /** ms that 99 of 100 looks stayed below */
  readonly p99: number;
  readonly longest: number;
  /** ms that the thread itself worked at a stretch, at the most; null where the kernel does not tell */
  readonly worked: number | null;
}

/** Ms beyond the time between two looks. */
const beyond = (ms: number): number => Math.max(0, Math.round(ms - RESOLUTION));

export class OwnThread {
  private readonly delay = monitorEventLoopDelay({ resolution: RESOLUTION });
  private readonly told: number | null;
  private readonly line = Buffer.alloc(LINE);
  private workedBefore: number;
  private worked = 0;

  constructor() {
    this.delay.enable();
    const path = `/proc/self/task/${process.pid}/schedstat`;
    this.told = existsSync(path) ? openSync(path, 'r') : null;
    this.workedBefore = this.ran();
    if (this.told !== null) setInterval(() => this.look(), RESOLUTION).unref();
  }

  /** Ms that the thread ran since it began. */
  private ran(): number {
    if (this.told === null) return 0;
    const length = readSync(this.told, this.line, 0, LINE, 0);
    return Number(this.line.toString('latin1', 0, length).split(' ')[0]) / NANOSECONDS_A_MS;
  }

  private look(): void {
    const now = this.ran();
    this.worked = Math.max(this.worked, now - this.workedBefore);
    this.workedBefore = now;
  }

  /** Since it was asked last. */
  take(): Kept {
    const { delay } = this;
    const kept = {
      p99: beyond(delay.percentile(99) / NANOSECONDS_A_MS),
      longest: beyond(delay.max / NANOSECONDS_A_MS),
      worked: this.told === null ? null : Math.round(this.worked),
    };
    delay.reset();
    this.worked = 0;
    return kept;
  }
}
