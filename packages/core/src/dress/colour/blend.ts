/**
 * How a fill's colour meets the plate's. Source: W3C, Compositing and Blending Level 1, sections 5 (Porter-Duff over)
 * and 10.1 (blending: B(cb, cs) for each mode); `add` is the sum, which that text calls `plus-lighter` without its
 * clipping.
 */
export type BlendMode = 'over' | 'screen' | 'lighten' | 'add' | 'multiply' | 'soft light';

export const BLEND_MODES: readonly BlendMode[] = ['over', 'screen', 'lighten', 'add', 'multiply', 'soft light'];

/** @param cb of the backdrop, and `cs` of the source, 0 to 1 where a mode is made for that */
export const BLEND: Readonly<Record<BlendMode, (cb: number, cs: number) => number>> = {
  over: (_, cs) => cs,
  screen: (cb, cs) => cb + cs - cb * cs,
  lighten: (cb, cs) => Math.max(cb, cs),
  add: (cb, cs) => cb + cs,
  multiply: (cb, cs) => cb * cs,
  'soft light': (cb, cs) => {
    if (cs <= 0.5) return cb - (1 - 2 * cs) * cb * (1 - cb);
    const d = cb <= 0.25 ? ((16 * cb - 12) * cb + 4) * cb : Math.sqrt(Math.max(0, cb));
    return cb + (2 * cs - 1) * (d - cb);
  },
};
