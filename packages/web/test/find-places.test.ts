// @vitest-environment happy-dom
/** What can be found on a bench by its name, and in which order. */
import { describe, expect, it } from 'vitest';
import { setWords } from '../src/dress/part-words';
import type { Place } from '../src/find/find-places';
import { commandPlaces, dressPlaces, elementOf, found, placesOn } from '../src/find/find-places';

/** Two parts of a bench with a control that has companions, one in a label, a disabled one, and what cannot be found. */
function bench(): HTMLElement {
  const root = document.createElement('aside');
  root.innerHTML = `
    <section aria-label="Levels"><h2><button class="fold">Levels</button></h2>
      <input type="range" aria-label="Gain" title="Multiplies the light">
      <input aria-label="Gain, typed" data-beside><button aria-label="Key of Gain" data-beside></button>
      <label>reaches <input title="Px beyond the pin"> px</label>
      <input type="file" aria-label="A file">
    </section>
    <section aria-label="Edge"><button disabled title="Rounds the corners">Corners</button>
      <input type="range" aria-label="Gain of the edge" title="Something else">
    </section>`;
  return root;
}

describe('what can be found on a bench', () => {
  it('is each control once, with its part and what explains it', () => {
    expect(placesOn(bench()).map(({ label, where, help }) => [label, where, help])).toEqual([
      ['Gain', 'Levels', 'Multiplies the light'],
      ['reaches px', 'Levels', 'Px beyond the pin'],
      ['Corners', 'Edge', 'Rounds the corners'],
      ['Gain of the edge', 'Edge', 'Something else'],
    ]);
  });
  it('leads to its element in its own part', () => {
    const root = bench();
    expect(elementOf(root, 'Edge', 'Gain of the edge')).toBe(root.querySelectorAll('input[type=range]')[1]);
    expect(elementOf(root, 'Edge', 'Gain')).toBeNull();
  });
  it('is found by all words of what is typed: in its name before where it stands, and there before what it says', () => {
    const all = placesOn(bench());
    const labels = (search: string): string[] => found(all, search, [], 9).map((p) => p.label);
    expect(labels('gain')).toEqual(['Gain', 'Gain of the edge']);
    expect(labels('EDGE')).toEqual(['Gain of the edge', 'Corners']);
    expect(labels('edge gain')).toEqual(['Gain of the edge']);
    expect(labels('beyond')).toEqual(['reaches px']);
    expect(labels('nowhere')).toEqual([]);
    expect(found(all, 'gain', [], 1)).toHaveLength(1);
  });
  it('goes before others whose words only hold what is typed, where one begins with it', () => {
    const told = (label: string, help: string): Place => ({ ...placesOn(bench())[0]!, id: label, label, help });
    const all = [told('Window', 'Drag a frame around what shows'), told('Corners', 'Rounds the corners')];
    expect(found(all, 'round', [], 9).map((p) => p.label)).toEqual(['Corners', 'Window']);
  });
  it('is what was used lately while nothing is typed, the last first, as far as it is there', () => {
    const recent = ['Edge/Corners', 'Gone/Away', 'Levels/Gain'];
    expect(found(placesOn(bench()), ' ', recent, 9).map((p) => p.label)).toEqual(['Corners', 'Gain']);
  });
  it('includes the numbers of a dress from any bench, and commands that can be done', () => {
    const gain = dressPlaces().find((p) => p.label === 'Gain')!;
    expect(gain).toMatchObject({ where: 'Dress, Levels', goes: { kind: 'dress', section: 'Levels' } });
    expect(dressPlaces().every((p) => !p.where.includes('undefined'))).toBe(true);
    expect(commandPlaces((id) => id === 'undo').map((p) => [p.label, p.where])).toEqual([['Undo', 'Ctrl+Z']]);
  });
});

describe('the words of a folded part', () => {
  it('say what is set, in the names of its controls', () => {
    const dress = {
      levels: { gain: 0.25, tint: [{ frame: 3, value: 1 }], black: [0, 0, 0] as [number, number, number] },
      motionBlur: { on: true },
      holdouts: [],
    };
    expect(setWords(dress, 'levels')).toBe('gain 0.25, tint keyed, black sampled');
    expect(setWords(dress, 'softness', 'motionBlur')).toBe('on');
    expect(setWords(dress, 'holdouts')).toBe('');
    expect(setWords({}, 'edge', 'bend')).toBe('');
  });
});
