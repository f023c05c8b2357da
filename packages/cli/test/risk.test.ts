import { describe, expect, it } from 'vitest';
import type { Counted } from '../src/bench/risk';
import { byFactor, calibrationOf, mistakes, riskCurve, summary } from '../src/bench/risk';

const frame = (error: number | null, trust: number, more: Partial<Counted> = {}): Counted => ({
  seed: 1,
  frame: 0,
  factors: { glass: 'dark' },
  error,
  trust,
  ratios: [0.5, 1.5],
  ...more,
});
const FRAMES = [frame(0.2, 1), frame(1.4, 0.95), frame(4, 0.6), frame(9, 0.1), frame(null, 0)];

describe('the worth of trust', () => {
  it('counts a mistake by its trust, and a lost frame as none', () => {
    expect(mistakes(FRAMES)).toEqual({ slight: 0.25, grave: 0.25 });
  });
  it('tells the errors of what is kept at each trust', () => {
    const rows = riskCurve(FRAMES).split('\n').slice(2);
    expect(rows[0]).toBe('| 0.99 | 20 % | 0.20 | 0.20 | 0.0 % | 0.0 % |');
    expect(rows.at(-1)).toBe('| 0 | 80 % | 4.00 | 9.00 | 75.0 % | 50.0 % |');
  });
  it('counts lost frames as wrong by any limit when shots are told apart', () => {
    const lost = { seed: 2, frames: [frame(0.1, 1), frame(null, 0)], fps: 5 };
    const good = { seed: 3, frames: [frame(0.1, 1), frame(0.2, 1)], fps: 7 };
    expect(summary([lost, good])).toContain('| 50 % / 50 % / 50 % |');
    expect(summary([lost, good])).toContain('2 (lost)');
  });
  it('tells calibration and each factor apart', () => {
    expect(calibrationOf(FRAMES)).toBe('Per axis within 1 / 2 sigma: 50 % / 100 %.');
    const other = frame(0.3, 1, { factors: { glass: 'lit' }, seed: 4 });
    expect(byFactor([...FRAMES, other])).toMatch(/glass: dark \| 1 \|.*\n\| glass: lit \| 1 \| 0\.30/);
  });
});
