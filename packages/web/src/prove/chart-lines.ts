/** How curves over a shot's frames are drawn, wherever they are. */
import type { Series } from './curves';

/** Each corner its own hue and dash, so that they are told apart without colour. */
const LOOKS = [
  ['#6fb9dc', []],
  ['#e9b04e', [7, 3]],
  ['#d690c4', [2, 3]],
  ['#93d1c0', [9, 3, 2, 3]],
] as const;
/** The same on paper, darker. */
const PAPER = ['#1f6f96', '#9a6a05', '#95397f', '#2b7d68'];
/** Of a second four, as heights beside widths. */
const DOTS = [1, 2];
const CORNERS = LOOKS.length;

/** @param values per frame; null where nothing is known */
export function drawnLine(
  name: string,
  values: readonly (number | null)[],
  colour: string,
  dash: readonly number[],
  wide = 1.4,
) {
  return {
    label: name,
    data: [...values],
    borderColor: colour,
    backgroundColor: colour,
    borderDash: [...dash],
    borderWidth: wide,
    pointRadius: 0,
    spanGaps: false,
  };
}

/** @param i its place among the series of one chart */
export function lineOfSeries({ name, values }: Series, i: number) {
  const [colour, dash] = LOOKS[i % CORNERS]!;
  return drawnLine(name, values, colour, i < CORNERS ? dash : DOTS);
}

/** The same for a page that is printed. */
export function lineOnPaper(series: Series, i: number) {
  const colour = PAPER[i % CORNERS]!;
  return { ...lineOfSeries(series, i), borderColor: colour, backgroundColor: colour };
}
