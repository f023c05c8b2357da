/** Values with keys are called as the person knows them, and no two of them alike. */
import { describe, expect, it } from 'vitest';
import { keyLabel } from '../src/dress/key-label';

describe('a value with keys', () => {
  it.each<[string, (string | number)[]]>([
    ['Levels: Gain', ['dress', 'levels', 'gain']],
    ['Edge: Inset, right', ['dress', 'edge', 'inset', 'sides', 1]],
    ['Edge: Corners, BL', ['dress', 'edge', 'radius', 'corners', 3]],
    ['Levels gain blue', ['dress', 'levels', 'channels', 'gain', 2]],
    ['Added light 2 right', ['dress', 'lights', 1, 'x']],
    ['Holdout 1 shape', ['dress', 'holdouts', 0, 'keys']],
    ['Bend top 1 down', ['dress', 'bend', 'top', 0, 'y']],
    ['Text 1 opacity', ['fill', 'made', 'lines', 0, 'opacity']],
    ['Clip scale', ['fill', 'made', 'foreground', 'scale']],
  ])('is called %s', (label, path) => {
    expect(keyLabel(path)).toBe(label);
  });
});
