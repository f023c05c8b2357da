/** What is set in parts of a dress, in a few words: for the line that a folded part of the bench shows. */
import type { DressRecipe } from '@yarlop/core/dress/layer/recipe';
import type { Control } from './dress-controls';
import { CONTROLS } from './dress-controls';

/** Members that are no plain numbers, and how they are called. */
const WORDS: Readonly<Record<string, string>> = {
  black: 'black sampled',
  white: 'white sampled',
  channels: 'per channel',
  shape: 'disc',
  resolution: 'device px',
  colour: 'colour clicked',
  space: 'as shown',
  flicker: 'own flicker',
  scanBands: 'scan bands',
  scanSpeed: 'scan speed',
  noiseSeed: 'noise no.',
};

const asWord = (v: number): string => String(Math.round(v * 1000) / 1000);

function memberWords(control: Control | undefined, field: string, v: unknown): string {
  const name = control?.label.toLowerCase() ?? WORDS[field] ?? field;
  if (Array.isArray(v) && control) return `${name} keyed`;
  if (typeof v === 'number') return `${name} ${asWord(v)}`;
  return name;
}

function partWords(part: keyof DressRecipe, value: unknown): string[] {
  if (Array.isArray(value)) return value.length > 0 ? [String(value.length)] : [];
  return Object.entries(value ?? {})
    .filter(([, v]) => v !== undefined)
    .map(([field, v]) => {
      if (field === 'on') return v === true ? 'on' : 'off';
      const control = CONTROLS.find((c) => c.part === part && c.field === field);
      return memberWords(control, field, v);
    });
}

/** What is set in these parts; empty where nothing is. */
export function setWords(dress: DressRecipe, ...parts: (keyof DressRecipe)[]): string {
  return parts
    .filter((part) => dress[part] !== undefined)
    .flatMap((part) => partWords(part, dress[part]))
    .join(', ');
}
