/** Which files of a library are listed, and in which order. */
import type { LibraryItem } from '../types';

export const KINDS = [
  { value: 'all', text: 'Everything' },
  { value: 'plate', text: 'Plates' },
  { value: 'fill', text: 'Fills' },
  { value: 'unused', text: 'Used nowhere' },
] as const;
export type Kind = (typeof KINDS)[number]['value'];

export const ORDERS = [
  { value: 'added', text: 'Latest first' },
  { value: 'name', text: 'By name' },
  { value: 'uses', text: 'Most used first' },
  { value: 'size', text: 'Largest picture first' },
  { value: 'frames', text: 'Longest first' },
] as const;
export type Order = (typeof ORDERS)[number]['value'];

export interface Wanted {
  readonly text: string;
  readonly kind: Kind;
  readonly tag: string | null;
  readonly order: Order;
}

/** A file that is a plate and shown as well is both. */
const IS: Readonly<Record<Kind, (m: LibraryItem) => boolean>> = {
  all: () => true,
  plate: (m) => m.plateOf.length > 0,
  fill: (m) => m.plateOf.length === 0 || m.shownBy.length > 0,
  unused: (m) => m.plateOf.length === 0 && m.shownBy.length === 0,
};

const pixels = (m: LibraryItem): number => m.probe.width * m.probe.height;
const uses = (m: LibraryItem): number => m.plateOf.length + m.shownBy.length;

const byName = (a: LibraryItem, b: LibraryItem): number => a.name.localeCompare(b.name, undefined, { numeric: true });
const COMPARED: Readonly<Record<Order, (a: LibraryItem, b: LibraryItem) => number>> = {
  added: (a, b) => String(b.added ?? '').localeCompare(String(a.added ?? '')),
  name: byName,
  uses: (a, b) => uses(b) - uses(a),
  size: (a, b) => pixels(b) - pixels(a),
  frames: (a, b) => b.frameCount - a.frameCount,
};

/** All that a person may have in mind when they look for a file. */
function wordsOf(m: LibraryItem): string {
  const places = [...m.plateOf.map((p) => p.name), ...m.shownBy.flatMap((s) => [s.name, s.shotName])];
  return [m.name, m.fileName, ...m.tags, ...places].join(' ').toLowerCase();
}

/** Every typed word must be found; equal ones stand by their names. */
export function listed(all: readonly LibraryItem[], { text, kind, tag, order }: Wanted): LibraryItem[] {
  const words = text.toLowerCase().split(/\s+/).filter(Boolean);
  return all
    .filter((m) => IS[kind](m) && (tag === null || m.tags.includes(tag)))
    .filter((m) => words.every((w) => wordsOf(m).includes(w)))
    .sort((a, b) => COMPARED[order](a, b) || byName(a, b));
}

/** All tags in use, the most used first. */
export function tagsOf(all: readonly LibraryItem[]): string[] {
  const counts = new Map<string, number>();
  for (const tag of all.flatMap((m) => m.tags)) counts.set(tag, (counts.get(tag) ?? 0) + 1);
  return [...counts].sort((a, b) => b[1] - a[1] || a[0].localeCompare(b[0])).map(([tag]) => tag);
}
