/** The shipped fonts as outlines, read once. */
import { readFile } from 'node:fs/promises';
import { createRequire } from 'node:module';
import opentype from 'opentype.js';
import type { FontName, LetterOutlines } from '@yarlop/core/dress/content/letters';
import { FONTS, FONT_FILES, lettersFrom } from '@yarlop/core/dress/content/letters';

let loaded: Promise<LetterOutlines> | undefined;

/** Outlines of the letters of the fonts that are shipped, read once. */
export function letters(): Promise<LetterOutlines> {
  loaded ??= Promise.all(
    FONTS.map(async (name) => {
      const bytes = await readFile(createRequire(import.meta.url).resolve(FONT_FILES[name]));
      return [name, opentype.parse(bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.byteLength))] as const;
    }),
  ).then((fonts) => lettersFrom(Object.fromEntries(fonts) as Record<FontName, opentype.Font>));
  return loaded;
}
