/**
 * Edits of a list of sections: stretches of frames with settings of their own, in order and apart from each other. Each
 * gives a new list; the old one stays as it was.
 */

import type { FrameSpan } from '../../frame-ranges';

type Listed = FrameSpan & Readonly<Record<string, unknown>>;

/** What a section says beside its frames. */
function settingsIn({ from: _from, to: _to, ...settings }: Listed): Readonly<Record<string, unknown>> {
  return settings;
}

function isSame(a: Listed, b: Listed): boolean {
  const [x, y] = [settingsIn(a), settingsIn(b)];
  const names = new Set([...Object.keys(x), ...Object.keys(y)]);
  return [...names].every((n) => JSON.stringify(x[n]) === JSON.stringify(y[n]));
}

/** In order, without those that say nothing, and with neighbours that say the same as one. */
function tidied<T extends FrameSpan>(sections: readonly T[]): T[] {
  const out: T[] = [];
  for (const s of [...sections].sort((a, b) => a.from - b.from)) {
    if (s.from > s.to || Object.keys(settingsIn(s as T & Listed)).length === 0) continue;
    const last = out.at(-1);
    if (last?.to === s.from - 1 && isSame(last as T & Listed, s as T & Listed))
      out[out.length - 1] = { ...last, to: s.to };
    else out.push(s);
  }
  return out;
}

/** What of a section lies outside a span, before it and after it. */
function outside<T extends FrameSpan>(s: T, { from, to }: FrameSpan): T[] {
  return [
    { ...s, to: Math.min(s.to, from - 1) },
    { ...s, from: Math.max(s.from, to + 1) },
  ].filter((p) => p.from <= p.to);
}

/** Parts of a span that no section covers. */
function uncovered(sections: readonly FrameSpan[], { from, to }: FrameSpan): FrameSpan[] {
  let left: FrameSpan[] = [{ from, to }];
  for (const s of sections) left = left.flatMap((p) => outside(p, s));
  return left;
}

/**
 * Settings that hold on a span from now on; what sections there say otherwise stays.
 * @param part what is set, from what a section says by now; the span's frames without a section say nothing
 */
export function withSettings<T extends FrameSpan>(
  sections: readonly T[],
  span: FrameSpan,
  part: (now: Partial<T>) => Omit<T, 'from' | 'to'>,
): T[] {
  const within = sections.filter((s) => s.from <= span.to && s.to >= span.from);
  const set = (now: Partial<T>, { from, to }: FrameSpan): T => ({ ...part(now), from, to }) as T;
  return tidied([
    ...sections.flatMap((s) => outside(s, span)),
    ...within.map((s) => set(s, { from: Math.max(s.from, span.from), to: Math.min(s.to, span.to) })),
    ...uncovered(within, span).map((p) => set({}, p)),
  ]);
}

/** Without some settings, which hold for the whole shot from now on. */
export function withoutSettings<T extends FrameSpan>(sections: readonly T[], names: readonly (keyof T)[]): T[] {
  const dropped = new Set<PropertyKey>(names);
  return tidied(
    sections.map((s) => Object.fromEntries(Object.entries(s).filter(([name]) => !dropped.has(name))) as unknown as T),
  );
}

/** With other ends, as far as its neighbours leave room. @param i which one */
export function trimmed<T extends FrameSpan>(sections: readonly T[], i: number, { from, to }: FrameSpan): T[] {
  const before = sections[i - 1]?.to ?? -1;
  const after = sections[i + 1]?.from ?? Infinity;
  return tidied(
    sections.map((s, k) => (k === i ? { ...s, from: Math.max(from, before + 1), to: Math.min(to, after - 1) } : s)),
  );
}

/** One in the place of a section and the next one, with what the first of them says; frames between go with it. */
export function joined<T extends FrameSpan>(sections: readonly T[], i: number): T[] {
  const [first, next] = [sections[i], sections[i + 1]];
  if (!first || !next) return [...sections];
  return tidied([...sections.slice(0, i), { ...first, to: next.to }, ...sections.slice(i + 2)]);
}
