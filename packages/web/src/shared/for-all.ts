/** One thing asked for every Screen. */
import { sentence } from '../api';
import type { Screen } from '../types';

/** Asks for each Screen, one after the other. @returns why some were refused, with their names; empty where none was */
export async function forAll(screens: readonly Screen[], ask: (screen: Screen) => Promise<unknown>): Promise<string> {
  const refused: string[] = [];
  for (const screen of screens)
    await ask(screen).catch((e: unknown) => refused.push(`${screen.recipe.name}: ${sentence(e)}`));
  return refused.join(' ');
}
