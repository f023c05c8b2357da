/** Layers of made-up content as the page lists, makes and changes them. */
import type { ChosenKey } from '@yarlop/core/dress/base/key-edit';
import { easedKeys, keyTracks, movedKeys, withoutKeys } from '@yarlop/core/dress/base/key-edit';
import type { Ease } from '@yarlop/core/dress/base/keys';
import type { ContentLayer } from '@yarlop/core/dress/content/layers';
import type { NewLayer } from '@yarlop/core/dress/content/new-layer';
import { PIECES, pieceOf } from '@yarlop/core/dress/content/pieces';
import type { PieceKind } from '@yarlop/core/dress/content/pieces';
import type { Media } from '../types';

/** Letters of a layer's own words that are shown as its name. */
const MOST_LETTERS = 28;

/** What a layer is called. @param media of the library */
export function titleOf(l: ContentLayer, media: ReadonlyMap<string, Media>): string {
  if (l.name) return l.name;
  if (l.kind === 'words') return l.text.split('\n')[0]!.slice(0, MOST_LETTERS) || 'Words';
  if (l.kind === 'shape') return l.shape === 'box' ? 'Box' : 'Oval';
  if (l.kind === 'piece') return pieceOf(l.piece).title;
  return media.get(l.media)?.name ?? 'A file that is gone';
}

/** What can be added, by the word on its button. */
export const ADDED = {
  words: 'Words',
  box: 'Box',
  oval: 'Oval',
  picture: 'Picture or clip',
} as const satisfies Partial<Record<NewLayer, string>>;

export const ADDED_PIECES = Object.entries(PIECES).map(([id, { title }]) => ({ id: id as PieceKind, title }));

/** Frames on which a layer has keys, in rising order. */
export function keyFrames(l: ContentLayer): number[] {
  const frames = keyTracks(l).flatMap((t) => t.keys.map((k) => k.frame));
  return [...new Set(frames)].sort((a, b) => a - b);
}

/** All keys of a layer on one frame. */
function keysOn(l: ContentLayer, frame: number): ChosenKey[] {
  return keyTracks(l).flatMap(({ path, keys }) => (keys.some((k) => k.frame === frame) ? [{ path, frame }] : []));
}

/** How the keys of a layer on a frame lead on; null where it has none there, or they differ. */
export function easeOn(l: ContentLayer, frame: number): Ease | null {
  const eases = keyTracks(l).flatMap((t) => t.keys.filter((k) => k.frame === frame).map((k) => k.ease ?? 'linear'));
  return new Set(eases).size === 1 ? eases[0]! : null;
}

/** A layer whose keys on a frame lie on another one. @param last frame that they may go to */
export const withKeysMoved = (l: ContentLayer, from: number, to: number, last: number): ContentLayer =>
  movedKeys(l, keysOn(l, from), to - from, last);
/** A layer whose keys on a frame lead on in another way. */
export const withKeysEased = (l: ContentLayer, frame: number, ease: Ease): ContentLayer =>
  easedKeys(l, keysOn(l, frame), ease);
/** A layer without its keys on a frame. */
export const withoutKeysOn = (l: ContentLayer, frame: number): ContentLayer => withoutKeys(l, keysOn(l, frame));

/** Members that are undefined go. */
export function withMembers(l: ContentLayer, members: object): ContentLayer {
  const all = Object.entries({ ...l, ...members }).filter(([, v]) => v !== undefined);
  return Object.fromEntries(all) as unknown as ContentLayer;
}

/** The last frame that anything of a document happens on. */
export function lastFrameOf(layers: readonly ContentLayer[]): number {
  const ends = layers.flatMap((l) => [...keyFrames(l), l.from ?? 0, l.to ?? 0]);
  return Math.max(0, ...ends);
}
