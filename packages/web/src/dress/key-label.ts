/** What a value with keys is called where its control is not at hand. */
import type { KeyPath } from '@yarlop/core/dress/base/key-edit';
import { CONTROLS, SECTION_OF } from './dress-controls';

const spaced = (step: string | number): string =>
  typeof step === 'number' ? String(step + 1) : step.replace(/[A-Z]/g, (c) => ` ${c.toLowerCase()}`);

/** As its control is called, where it has one. @param path from the recipe on */
export function keyLabel(path: KeyPath): string {
  const [, part, field] = path;
  const control = CONTROLS.find((c) => c.part === part && c.field === field);
  if (control) return `${SECTION_OF[control.part]}: ${control.label}`;
  const words = path.slice(1).map(spaced);
  const named = words.at(-1) === 'keys' ? [...words.slice(0, -1), 'shape'] : words;
  return named.join(' ');
}
