/** What was made up in a slot, with its lines and the clip before its background, as layers. */
import type { Animated } from '../base/keys';
import { valueAt } from '../base/keys';
import type { TextLine } from './before-layers';
import { clipLayer } from './before-layers';
import type { ContentLayer, WordsLayer } from './layers';
import { LAYER_SIZES } from './layers';
import type { LetterOutlines } from './letters';
import type { MadeFill } from './made-fill';
import type { Align } from './words';

/** A value with another one added, on all its keys. */
function plus(a: Animated, by: number): Animated {
  return typeof a === 'number' ? a + by : a.map((k) => ({ ...k, value: k.value + by }));
}

/** How far the middle of a line lies from the end that it stands by, in its own widths. */
const TO_MIDDLE: Readonly<Record<Align, number>> = { left: 0.5, middle: 0, right: -0.5 };

/** A line that stands by one of its ends stands by its middle as a layer: where its size has keys, as on the first of them. */
function wordsOf({ text, align = 'middle', ...line }: TextLine, letters: LetterOutlines, aspect: number): WordsLayer {
  const first = Array.isArray(line.size) ? (line.size[0] as { frame: number }).frame : 0;
  const size = valueAt(line.size, first, LAYER_SIZES.words);
  const shift = (TO_MIDDLE[align] * size * letters(text, line.font ?? 'sans').width) / aspect;
  return { kind: 'words', text, ...line, x: plus(line.x ?? 0.5, shift) };
}

/** The same content in layers alone. @param aspect of the slot, width by height */
export function asLayers(m: MadeFill, letters: LetterOutlines, aspect: number): MadeFill {
  const before: ContentLayer[] = m.foreground ? [clipLayer(m.foreground)] : [];
  const lines = (m.lines ?? []).map((l) => wordsOf(l, letters, aspect));
  return { ground: m.ground, layers: [...before, ...lines, ...(m.layers ?? [])], proportions: m.proportions ?? aspect };
}
