/** What can be handed over: what it is called, and what it is for. */
import type { DeliveryFormat } from '@yarlop/contracts/formats';
import type { DeliverSettings } from '../types';
import { FORMATS, isOf } from '@yarlop/contracts/formats';

interface ShowChoice {
  readonly value: NonNullable<DeliverSettings['show']>;
  readonly text: string;
}

export interface FormatChoice {
  readonly value: DeliverSettings['as'];
  readonly text: string;
  readonly what: string;
}

const choiceOf = ({ id, name, what }: DeliveryFormat): FormatChoice => ({
  value: id as FormatChoice['value'],
  text: name,
  what,
});

export const PICTURES: readonly FormatChoice[] = FORMATS.filter((f) => isOf(f.id, 'clip', 'sequence')).map(choiceOf);
export const SHOWS: readonly ShowChoice[] = [
  { value: 'dressed', text: 'finished picture' },
  { value: 'element', text: 'element with alpha' },
  { value: 'clean', text: 'clean plate' },
  { value: 'matte', text: 'matte' },
  { value: 'stabilised', text: 'plate held still by the Screen' },
  { value: 'flat', text: 'the Screen laid flat' },
];
/** Parts that add up to the finished picture; floats only. */
export const PASSES: readonly ShowChoice[] = [
  { value: 'pass-element', text: 'pass: element, with alpha' },
  { value: 'pass-light', text: 'pass: kept light' },
  { value: 'pass-spill', text: 'pass: spill change' },
  { value: 'pass-holdout', text: 'pass: holdouts' },
];

const DATA_FORMATS = FORMATS.filter((f) => isOf(f.id, 'text', 'maps'));
export const DATA: readonly { readonly label: string; readonly choices: readonly FormatChoice[] }[] = [
  ...new Set(DATA_FORMATS.map((f) => f.group)),
].map((label) => ({ label, choices: DATA_FORMATS.filter((f) => f.group === label).map(choiceOf) }));
export const MAP_TYPES = [
  { value: 'exr', text: 'OpenEXR, 32 bit floats' },
  { value: 'png', text: 'PNG, 16 bit' },
  { value: 'tiff', text: 'TIFF, 16 bit' },
];
/** Of track data, with the group that it stands in; names of pictures tell by themselves. */
export const NAMES: Readonly<Record<string, string>> = Object.fromEntries(
  FORMATS.map((f) => [f.id, isOf(f.id, 'text', 'maps') ? `${f.group}: ${f.name}` : f.name]),
);

/** What a delivery is, in a few words. */
export function whatOf({ as, show }: DeliverSettings): string {
  const shown = SHOWS.find((s) => s.value === show && s.value !== 'dressed')?.text;
  return [NAMES[as] ?? as, shown].filter(Boolean).join(', ');
}

export const FIRST_TEMPLATE =
  '# {{screen}}, {{count}} frames of {{plate}}\n{{each frame}}\n{{label}}\t{{tl.x:3}}\t{{tl.y:3}}\t{{tr.x:3}}\t{{tr.y:3}}\t{{br.x:3}}\t{{br.y:3}}\t{{bl.x:3}}\t{{bl.y:3}}\n{{end}}\n';
