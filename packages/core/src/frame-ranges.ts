/** Frames in a row, both ends inclusive. */
export interface FrameSpan {
  readonly from: number;
  readonly to: number;
}

/** Runs of frames that follow one another. @param frames in order */
export function rangesOf(frames: readonly number[]): FrameSpan[] {
  const out: FrameSpan[] = [];
  for (const n of frames) {
    const last = out.at(-1);
    if (last?.to === n - 1) out[out.length - 1] = { from: last.from, to: n };
    else out.push({ from: n, to: n });
  }
  return out;
}

/** Ranges without some of their frames. */
export function withoutFrames(ranges: readonly FrameSpan[], frames: ReadonlySet<number>): FrameSpan[] {
  return ranges.flatMap(({ from, to }) =>
    rangesOf(Array.from({ length: to - from + 1 }, (_, i) => from + i).filter((n) => !frames.has(n))),
  );
}
