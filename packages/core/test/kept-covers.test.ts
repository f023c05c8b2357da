import { describe, expect, it } from 'vitest';
import type { Animated } from '../src/dress/base/keys';
import type { ContentLayer } from '../src/dress/content/layers';
import type { LetterOutlines } from '../src/dress/content/letters';
import { makeFill } from '../src/dress/content/made-fill';
import type { LinearPicture } from '../src/dress/fill/fill-pyramid';

/** Every letter is a square half a body wide. */
const square: LetterOutlines = (text) => ({
  contours: [...text].map((_, i) => [[i / 2, -0.7], [i / 2 + 0.4, -0.7], [i / 2 + 0.4, 0], [i / 2, 0]]), // prettier-ignore
  width: text.length / 2,
});
/** Letters that nothing was drawn with yet. */
const unused = (): LetterOutlines => (text, font) => square(text, font);

function drawn(
  layers: readonly ContentLayer[],
  frame: number,
  letters: LetterOutlines,
  size: readonly [number, number] = [160, 100],
): LinearPicture {
  return makeFill({ ground: [0, 0, 0], layers }, frame, size, { background: null, foreground: null, letters });
}
const words = (text: string, x: Animated): ContentLayer => ({
  ...{ kind: 'words', text, size: 0.2, x, y: 0.5, opacity: 0.7 },
});
const SIZES = [[160, 100], [80, 50]] as const; // prettier-ignore
const KEYS: Animated = [
  { frame: 0, value: 0.2 },
  { frame: 10, value: 0.8 },
];

describe('layers whose covers are kept', () => {
  it.each<[string, number, Animated, string]>([
    ['at first', 0, 0.3, 'Ebb'],
    ['once more', 0, 0.3, 'Ebb'],
    ['with one of them moved', 0, 0.4, 'Ebb'],
    ['on another frame', 5, 0.4, 'Ebb'],
    ['with another text', 5, 0.4, 'Flood'],
  ])('are drawn as if nothing were kept, %s', (_, frame, x, text) => {
    const layers = [words('Quay', x), words(text, KEYS)];
    for (const size of SIZES) expect(drawn(layers, frame, square, size)).toEqual(drawn(layers, frame, unused(), size));
  });
  it('are drawn anew where something of them changes', () => {
    expect(drawn([words('Quay', 0.3)], 0, square).data).not.toEqual(drawn([words('Quay', 0.4)], 0, square).data);
    expect(drawn([words('Ebb', KEYS)], 0, square).data).not.toEqual(drawn([words('Ebb', KEYS)], 5, square).data);
  });
});
