import { describe, expect, it } from 'vitest';
import { Doubts } from '../src/follow/memory/doubts';
import type { Point } from '../src/geometry/point';
import type { Quad } from '../src/geometry/quad';

const at = (x: number): Quad => [
  [x, 0],
  [x + 9, 0],
  [x + 9, 9],
  [x, 9],
];
const sure = (frame: number): { frame: number; corners: Quad; trust: number; surprise: number } => ({
  frame,
  corners: at(frame),
  trust: 1,
  surprise: 0,
});
const unsure = (frame: number): ReturnType<typeof sure> => ({ ...sure(frame), trust: 0.4 });

/** Two stretches, frames 2 and 3 and frame 7, that wait. */
function waiting(): Doubts {
  const doubts = new Doubts({ frame: 0, corners: at(0) });
  for (const f of [sure(1), unsure(2), unsure(3), sure(4), sure(5), sure(6)]) {
    doubts.note(f);
    doubts.close(false);
  }
  for (const f of [unsure(7), sure(8), sure(9), sure(10)]) {
    doubts.note(f);
    doubts.close(false);
  }
  return doubts;
}
const frames = (doubts: Doubts): number[] | undefined => doubts.take()?.doubtful.map((d) => d.frame);

describe('doubtful frames', () => {
  it('wait in the order in which they came, and are taken once', () => {
    const doubts = waiting();
    expect([frames(doubts), frames(doubts), frames(doubts)]).toEqual([[2, 3], [7], undefined]);
  });

  it('do not wait before three sure ones follow, unless no more will come', () => {
    const doubts = new Doubts({ frame: 0, corners: at(0) });
    for (const f of [unsure(1), sure(2), sure(3)]) doubts.note(f);
    doubts.close(false);
    expect(doubts.take()).toBeNull();
    doubts.close(true);
    expect(frames(doubts)).toEqual([1]);
  });

  it('are known on from where the ones before them ended', () => {
    const doubts = waiting();
    doubts.take();
    expect(doubts.take()!.before.map((p) => p.frame)).toEqual([4, 5, 6]);
  });

  it('that wait are amended and moved like the open ones', () => {
    const doubts = waiting();
    doubts.note(unsure(11));
    doubts.amend(3, at(300), 0.8);
    doubts.amend(11, at(900), 0.7);
    doubts.move((q) => q.map(([x, y]): Point => [x, y + 5]) as unknown as Quad);
    const first = doubts.take()!;
    expect(first.doubtful[1]).toEqual({
      frame: 3,
      corners: at(300).map(([x, y]) => [x, y + 5]),
      trust: 0.8,
    });
    expect(first.before.at(-1)!.corners[0]).toEqual([1, 5]);
    expect(doubts.state.stretch!.doubtful[0]!.corners![0]).toEqual([900, 5]);
  });

  it('come back from a stored state as they were, also from one that knew of none that wait', () => {
    const doubts = waiting();
    doubts.note(unsure(11));
    const again = new Doubts({ frame: 99, corners: at(99) });
    again.restore(structuredClone(doubts.state));
    expect(again.state).toEqual(doubts.state);
    again.restore({ stretch: doubts.state.stretch });
    expect(again.take()).toBeNull();
    expect(again.state.stretch).toEqual(doubts.state.stretch);
  });

  it('of before have nothing to do with what begins anew; what waits goes on waiting', () => {
    const doubts = waiting();
    doubts.note(unsure(11));
    doubts.beginAnew([{ frame: 20, corners: at(20) }]);
    doubts.close(true);
    expect(frames(doubts)).toEqual([2, 3]);
    expect(doubts.state.stretch).toEqual({ before: [{ frame: 20, corners: at(20) }], beyond: [], doubtful: [] });
  });
});
