import { describe, expect, it } from 'vitest';
import type { FrameResult } from '../../core/src/solve/frame-result';
import { notFound } from '../../core/src/solve/frame-result';
import { keptFound } from '../src/kept-found';

const found = (frame: number, trust: number): FrameResult => ({
  ...notFound(frame, 0, 1, 'none'),
  homography: [1, 0, frame, 0, 1, 0, 0, 0, 1],
  trust,
  reason: null,
});
const lost = (frame: number): FrameResult => notFound(frame, 0, 9, 'Covered.');
const byFrame = (...all: FrameResult[]): Map<number, FrameResult> => new Map(all.map((r) => [r.frame, r]));

describe('frames of two runs', () => {
  it('that only the first had found stay where it had them, and are not trusted much', () => {
    const kept = keptFound(byFrame(found(1, 0.9), found(2, 0.1)), byFrame(lost(1), lost(2)));
    expect(kept).toEqual([{ ...found(1, 0.9), trust: 0.3 }, found(2, 0.1)]);
  });
  it('that the last one found, that both lost, or that only it looked at, are as it has them', () => {
    expect(keptFound(byFrame(found(1, 1), lost(2)), byFrame(found(1, 0.5), lost(2), lost(3)))).toEqual([]);
  });
});
