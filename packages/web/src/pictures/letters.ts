/** The letters of the shipped fonts as outlines, loaded once by each thread that asks. */
import mono from '@fontsource/ibm-plex-mono/files/ibm-plex-mono-latin-400-normal.woff?url';
import sansBold from '@fontsource/ibm-plex-sans/files/ibm-plex-sans-latin-600-normal.woff?url';
import sans from '@fontsource/ibm-plex-sans/files/ibm-plex-sans-latin-400-normal.woff?url';
import opentype from 'opentype.js';
import type { FontName, LetterOutlines } from '@yarlop/core/dress/content/letters';
import { FONTS, lettersFrom } from '@yarlop/core/dress/content/letters';

const FONT_URLS: Readonly<Record<FontName, string>> = { sans, 'sans bold': sansBold, mono };

let loaded: Promise<LetterOutlines> | undefined;
export function letters(): Promise<LetterOutlines> {
  loaded ??= Promise.all(
    FONTS.map(async (name) => [name, opentype.parse(await (await fetch(FONT_URLS[name])).arrayBuffer())] as const),
  ).then((f) => lettersFrom(Object.fromEntries(f) as Record<FontName, opentype.Font>));
  return loaded;
}
