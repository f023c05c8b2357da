/** Values that change over the shot: numbers, or keys on frames with what leads from one to the next. */

export type Ease = 'linear' | 'eased' | 'hold';

export interface Key {
  readonly frame: number;
  readonly value: number;
  /** how the value goes on to the next key; linear when left out */
  readonly ease?: Ease;
}

/** A steady value, or keys in rising order of their frames. */
export type Animated = number | readonly Key[];

/**
 * The value on a frame: that of the first key before it and of the last one after it; `otherwise` where nothing is set.
 */
export function valueAt(a: Animated | undefined, frame: number, otherwise: number): number {
  if (a === undefined) return otherwise;
  if (typeof a === 'number') return a;
  const next = a.findIndex((k) => k.frame > frame);
  const from = a[next < 0 ? a.length - 1 : next - 1];
  if (!from) return a[0]?.value ?? otherwise;
  const to = a[next];
  if (!to || from.ease === 'hold') return from.value;
  const t = (frame - from.frame) / (to.frame - from.frame);
  return from.value + (to.value - from.value) * (from.ease === 'eased' ? t * t * (3 - 2 * t) : t);
}

/** With a key set on a frame: replaces the one there, or makes a steady value into keys. */
export function withKey(a: Animated | undefined, key: Key): readonly Key[] {
  return [...(Array.isArray(a) ? (a as readonly Key[]).filter((k) => k.frame !== key.frame) : []), key].sort(
    (x, y) => x.frame - y.frame,
  );
}

/** Without the key on a frame; steady at its value when it was the last one. */
export function withoutKey(a: Animated | undefined, frame: number): Animated | undefined {
  if (!Array.isArray(a)) return a;
  const keys = a as readonly Key[];
  const left = keys.filter((k) => k.frame !== frame);
  return left.length > 0 ? left : keys[0]?.value;
}
